from sobercrow.core.tracing._joint_kernels cimport Border
from sobercrow.core.tracing._sizes cimport Node

cdef double TANGENT_REACH_PX, ERROR_PRICE, LINE_BONUS, EXTREME_BONUS, WIDEST_TURN_COS, WIDE_TURN_PRICE, LINE_SLACK_RAD

cdef Py_ssize_t find_candidates(
    const Border* border, double low, double high, bint open_ends, Node* joints, unsigned char* extreme, Py_ssize_t room
) noexcept nogil
cdef Py_ssize_t take_points(
    const Border* border, double low, double high, double* xs, double* ys, double* us
) noexcept nogil
cdef (double, double) _line_error(const double* xs, const double* ys, Py_ssize_t count, const double* ends) noexcept nogil
cdef (Py_ssize_t, double) chain(
    const Border* border, const Node* nodes, Py_ssize_t n, const unsigned char* extreme, const unsigned char* is_corner,
    const double* trim, double tolerance, double smoothness, long long* chosen, unsigned char* straight
) noexcept nogil

cpdef Py_ssize_t candidate_joints(
    const double[:, ::1] points, const double[::1] along, double low, double high, bint open_ends, double[:, ::1] joints,
    unsigned char[::1] extreme
)
cpdef Py_ssize_t gather(
    const double[:, ::1] points, const double[::1] along, double low, double high, double[::1] xs, double[::1] ys,
    double[::1] us
)
cpdef (Py_ssize_t, double) cheapest_chain(
    const double[:, ::1] points, const double[::1] along, const double[:, ::1] nodes, const unsigned char[::1] extreme,
    const unsigned char[::1] is_corner, const double[::1] trim, double tolerance, double smoothness,
    long long[::1] chosen, unsigned char[::1] straight
)

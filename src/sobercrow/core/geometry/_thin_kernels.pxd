cdef enum:
    LOOK = 24  # so many samples of a piece are looked at, at most

cdef double BEYOND_PX, CAREFUL, SQUARES_PRICE, LINE_SAVES, LINE_SLACK, WIDEST_TURN_COS, FAR
cdef int ROUNDS, FOOT_STEPS, TRIES, MOST_FAILURES

cdef struct Curve:
    const double* points  # x, y of each sample
    const double* ways    # direction into it, and out of it
    const double* along

cdef (double, double, Py_ssize_t) _piece(
    const Curve* curve, Py_ssize_t a, Py_ssize_t b, bint free_out, bint free_in, double tolerance, double* handles
) noexcept nogil
cdef Py_ssize_t _fewest(
    const Curve* curve, const long long* nodes, const double* prices, Py_ssize_t n, bint free_out, bint free_in,
    double tolerance, long long* chosen, unsigned char* straight
) noexcept nogil

cdef double _worst(
    const Curve* curve, Py_ssize_t a, Py_ssize_t b, const double* handles, bint straight
) noexcept nogil
cdef Py_ssize_t _thin_run(
    const Curve* curve, const long long* nodes, const double* prices, Py_ssize_t n, bint free_out, bint free_in,
    double tolerance, long long* chosen, double* handles
) noexcept nogil

cpdef void thin_runs(
    const double[:, ::1] points, const double[:, ::1] ways, const double[::1] along, const long long[::1] nodes,
    const double[::1] prices, const long long[::1] starts, Py_ssize_t first, Py_ssize_t last, const unsigned char[:, ::1] free_ends,
    double tolerance, long long[::1] chosen, double[:, ::1] handles, long long[::1] counts
)

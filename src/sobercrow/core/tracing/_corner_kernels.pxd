from sobercrow.core.tracing._joint_kernels cimport Border
from sobercrow.core.tracing._sizes cimport Place, Side

cdef double SIDE_GAP_PX, BLUNT_WIDTH, BLUNT_TURN_RAD, STRAIGHT_PX, WIDEST_END_PX, BLUNT_SURELY_RAD, OFF_SIDE_PX
cdef double LONGEST_TIP_PX, HIDDEN_APART_PX, HIDDEN_WITHIN_PX, HIDDEN_TURN, SIDE_PX

cdef bint fit_side(
    const Border* border, Py_ssize_t at, Py_ssize_t way, double gap, double reach, Py_ssize_t least, double* line
) noexcept nogil
cdef void read_turns(const Border* border, double* turns) noexcept nogil
cdef Py_ssize_t find_maxima(
    const Border* border, const double* turns, double least, double apart_px, long long* found
) noexcept nogil
cdef bint _sides(
    const Border* border, Py_ssize_t at, double gap, double room_behind, double room_ahead, double* behind, double* ahead
) noexcept nogil
cdef Py_ssize_t _outermost(
    const Border* border, Py_ssize_t at, double mx, double my, double behind, double ahead
) noexcept nogil
cdef double _nearest_along(
    const Border* border, Py_ssize_t at, double x, double y, Py_ssize_t way, double limit
) noexcept nogil
cdef bint _meet(const double* one, const double* other, double* where) noexcept nogil
cdef void _line_across_end(
    const Border* border, Py_ssize_t at, const double* behind, const double* ahead, double mx, double my, double reach,
    double* end
) noexcept nogil
cdef Py_ssize_t put_corner(
    const Border* border, Py_ssize_t at, double room_behind, double room_ahead, double blur, Place* out
) noexcept nogil
cdef Py_ssize_t _turned_beside(
    const Border* border, double from_s, Py_ssize_t way, double room, double least
) noexcept nogil
cdef Py_ssize_t hidden_corners(
    const Border* border, const Place* places, Py_ssize_t count, double low, double high, bint closed, double least,
    long long* found
) noexcept nogil

cpdef bint side_line(
    const double[:, ::1] points, const double[::1] along, Py_ssize_t at, Py_ssize_t way, double gap, double reach,
    Py_ssize_t least, double[::1] line
)
cpdef turn_strengths(const double[:, ::1] points, const double[::1] along)
cpdef local_maxima(
    const double[:, ::1] points, const double[::1] along, const double[::1] turns, double least, double apart_px
)
cpdef Py_ssize_t place_corner(
    const double[:, ::1] points, const double[::1] along, Py_ssize_t at, double room_behind, double room_ahead,
    double blur, double[:, ::1] out
)

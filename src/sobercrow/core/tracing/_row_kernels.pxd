from sobercrow.core.tracing._sizes cimport Point, Row

cdef double SHORTEST_ARM, LOOK_PX, QUARTER, LEVEL_RAD

ctypedef double[6] Knot  # an anchor with its handles: x and y of the one behind, of itself and of the one ahead

cdef void _take_apart_ring(
    const Knot* points, Py_ssize_t m, const unsigned char* is_corner, Row* state, unsigned char* straight,
    unsigned char* held, Point* home
) noexcept nogil
cpdef void take_apart(
    const double[:, :, ::1] points, const long long[::1] starts, const unsigned char[::1] is_corner,
    double[:, ::1] state, unsigned char[::1] straight, unsigned char[::1] held, double[:, ::1] home
)
cpdef void place_all(
    const long long[::1] starts, double[:, ::1] state, const unsigned char[::1] is_corner,
    const unsigned char[::1] straight, double[:, ::1] controls
)
cdef double _chord(const double* c) noexcept nogil
cdef (double, double) _way_from(const double* c, bint backwards) noexcept nogil
cpdef void ease_corners(
    const long long[::1] starts, const double[:, ::1] controls, double[:, ::1] state, unsigned char[::1] is_corner,
    const unsigned char[::1] straight, double least_rad, unsigned char[::1] changed
)

cdef double FLAT_PX, SHORTEST_PX
cdef enum:
    BLOCK = 16  # so many chords share a box; only chords in boxes that overlap are compared

ctypedef double[4] Box  # left, right, top, bottom
ctypedef double[8] Cubic  # x0 y0 x1 y1 x2 y2 x3 y3

cdef double _side(double ax, double ay, double bx, double by, double x, double y) noexcept nogil
cdef bint _runs_on(const double* xs, const double* ys, Py_ssize_t low, Py_ssize_t high) noexcept nogil
cdef bint _crossing_between(
    const double* xs, const double* ys, Py_ssize_t n, Py_ssize_t low, Py_ssize_t high, bint closed, double* place
) noexcept nogil
cdef bint _first_crossing(const double* xs, const double* ys, Py_ssize_t n, bint closed, double* place) noexcept nogil
cdef bint crosses(const Cubic* controls, Py_ssize_t m, bint closed, double* place) noexcept nogil
cpdef bint first_crossing(const double[:, ::1] controls, bint closed, double[::1] place)
cpdef void first_crossings(
    const double[:, ::1] controls, const long long[::1] starts, const unsigned char[::1] closed, Py_ssize_t first,
    Py_ssize_t last, double[:, ::1] places
)

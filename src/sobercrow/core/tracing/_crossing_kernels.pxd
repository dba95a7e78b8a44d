from sobercrow.core.tracing._sizes cimport Cubic

cdef double FLAT_PX, SHORTEST_PX
cdef enum:
    BLOCK = 16  # so many chords share a box; only chords in boxes that overlap are compared

ctypedef double[4] Box  # left, right, top, bottom

cdef double _side(double ax, double ay, double bx, double by, double x, double y) noexcept nogil
cdef bint _runs_on(const double* xs, const double* ys, Py_ssize_t low, Py_ssize_t high) noexcept nogil
cdef bint _crossing_between(
    const double* xs, const double* ys, Py_ssize_t n, Py_ssize_t low, Py_ssize_t high, bint closed, double* place
) noexcept nogil
cdef bint _first_crossing(const double* xs, const double* ys, Py_ssize_t n, bint closed, double* place) noexcept nogil
cdef bint crosses(const Cubic* controls, Py_ssize_t m, bint closed, double* place) noexcept nogil
cpdef bint first_crossing(const double[:, ::1] controls, bint closed, double[::1] place)

cdef double FLAT_PX, SHORTEST_PX
cdef enum:
    BLOCK = 16  # so many chords share a box; only chords in boxes that overlap are compared

cdef double _side(double ax, double ay, double bx, double by, double x, double y) noexcept nogil
cdef bint _runs_on(const double* xs, const double* ys, Py_ssize_t low, Py_ssize_t high) noexcept nogil
cpdef bint first_crossing(const double[:, ::1] controls, bint closed, double[::1] place)

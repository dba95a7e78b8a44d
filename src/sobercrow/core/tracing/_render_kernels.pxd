from sobercrow.core.tracing._adjust_kernels cimport Ring
from sobercrow.core.tracing._sizes cimport Row

cdef double FLAT_PX, SPACING_PX, FURTHEST_PX, BESIDE_PX, SHORTEST_ARM, CORNER_PULL, THIRDS_PULL, SHORT_PULL, LOOK_PX, FAINT

cdef double _polygon_length(const double* c) noexcept nogil
cdef double _chord(const double* c) noexcept nogil
cpdef Py_ssize_t mark_band(
    const double[:, ::1] controls, const long long[::1] starts, const long long[::1] order, int[:, ::1] place,
    Py_ssize_t reach
)
cpdef void list_band(
    int[:, ::1] place, int[::1] rows, int[::1] columns, int[::1] owner, int[::1] above, int[::1] below
)
cdef void _put(
    const int* place, Py_ssize_t width, double* steps, Py_ssize_t column, double amount
) noexcept nogil
cdef void _add_line(
    const int* place, Py_ssize_t height, Py_ssize_t width, double* steps, double x0, double y0, double x1, double y1,
    double amount
) noexcept nogil
cdef Py_ssize_t _chords(const double* c) noexcept nogil
cpdef void draw(
    Py_ssize_t first, Py_ssize_t last, const double[:, ::1] controls, const long long[::1] starts,
    const unsigned char[::1] which, double amount, const int[:, ::1] place, double[::1] steps
)
cpdef void covered(const int[::1] rows, const double[::1] steps, float[::1] cover)
cpdef void lay_over(
    const unsigned char[:, :, ::1] covers, const long long[::1] inks, const float[:, ::1] colours, float[:, :, ::1] picture
)
cpdef void compare(
    const float[::1] drawn, const float[::1] wanted, const int[::1] owner, float[::1] off, double[::1] costs
)
cpdef void soften(
    const int[::1] rows, const int[::1] columns, const int[::1] above, const int[::1] below, const double[::1] taps,
    const float[::1] values, float[::1] out
)
cdef double _pulled_at(
    const int* place, Py_ssize_t height, Py_ssize_t width, const float* pull, double x, double y
) noexcept nogil
cdef double _strength_at(
    const int* place, Py_ssize_t height, Py_ssize_t width, const float* strength, double x, double y
) noexcept nogil
cdef void step_ring(
    const int* place, Py_ssize_t height, Py_ssize_t width, const float* pull, const float* strength, bint varies,
    double response, const Ring* ring, double damping
) noexcept nogil
cpdef void step_rings(
    Py_ssize_t first, Py_ssize_t last, const long long[::1] starts, const double[::1] dampings, const int[:, ::1] place,
    const float[::1] pull, const float[::1] strength, double response, double[:, ::1] state, const unsigned char[::1] is_corner,
    const unsigned char[::1] straight, unsigned char[::1] held, const double[:, ::1] home, double[:, ::1] controls
)
cdef (double, double) _way_from(const double* c, bint backwards) noexcept nogil
cpdef void ease_corners(
    const long long[::1] starts, const double[:, ::1] controls, double[:, ::1] state, unsigned char[::1] is_corner,
    const unsigned char[::1] straight, double least_rad, unsigned char[::1] changed
)

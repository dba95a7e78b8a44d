cdef enum:
    WIDEST = 32

cdef float A1, A2, A3, A4, A5, A6, A7

cdef void _forward(const float* x, float* made) noexcept nogil
cdef void _backward(const float* c, float* made) noexcept nogil
cdef void _turn_over(const float* block, float* made) noexcept nogil
cdef void _project_block(
    float* plane, Py_ssize_t stride, Py_ssize_t tall, Py_ssize_t wide, const float* low, const float* high
) noexcept nogil
cdef void _project_unit(
    float* plane, Py_ssize_t width, Py_ssize_t fy, Py_ssize_t fx, Py_ssize_t top, Py_ssize_t left, Py_ssize_t bottom,
    Py_ssize_t right, const float* low, const float* high, Py_ssize_t first, Py_ssize_t across
) noexcept nogil
cpdef void project(
    float[:, :, ::1] picture, const float[:, ::1] low, const float[:, ::1] high, const long long[::1] first,
    const long long[::1] across, const long long[:, ::1] every, const long long[:, ::1] units, Py_ssize_t tall,
    Py_ssize_t wide
)
cdef void _raise_row(
    const float* led, const float* below, float* down, float* across, float* squares, Py_ssize_t many, bint has_more,
    float step
) noexcept nogil
cdef void _raise_duals(
    const float* led, float* dual, float most, const float* weights, Py_ssize_t count, Py_ssize_t height,
    Py_ssize_t width, Py_ssize_t top, Py_ssize_t left, Py_ssize_t bottom, Py_ssize_t right, float step
) noexcept nogil
cdef void _lower(
    const float* plane, float* led, const float* down, const float* across, const float* target, Py_ssize_t width,
    Py_ssize_t top, Py_ssize_t left, Py_ssize_t bottom, Py_ssize_t right, float rise, float towards
) noexcept nogil
cdef void _lead(
    float* plane, float* led, Py_ssize_t width, Py_ssize_t top, Py_ssize_t left, Py_ssize_t bottom, Py_ssize_t right
) noexcept nogil
cpdef void relax(
    float[:, :, ::1] picture, float[:, :, ::1] led, float[:, :, ::1] dual, double longest,
    const float[:, :, ::1] pull, double pull_weight, const float[::1] weights, const float[:, ::1] low,
    const float[:, ::1] high, const long long[::1] first, const long long[::1] across, const long long[:, ::1] every,
    const long long[:, ::1] units, Py_ssize_t tall, Py_ssize_t wide, double step, Py_ssize_t rounds
)

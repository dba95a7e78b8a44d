cdef enum:
    REACH = 3  # how far from flat colour a soft edge reaches, in pixels

cdef bint _is_flat(const unsigned char[:, :, ::1] pixels, Py_ssize_t row, Py_ssize_t column, int limit) noexcept nogil
cdef int _sum_of_steps(const unsigned char* one, const unsigned char* other) noexcept nogil
cdef double _squared(double r, double g, double b, const float* ink) noexcept nogil
cpdef void first_labels(
    const unsigned char[:, :, ::1] pixels, const unsigned char[::1] nearest, const unsigned char[::1] runner,
    const float[:, ::1] inks, const float[::1] sure, int limit, Py_ssize_t first, Py_ssize_t last,
    unsigned char[:, ::1] labels, unsigned long long[:, ::1] bits
)
cpdef void spread_across(
    const unsigned long long[:, ::1] bits, Py_ssize_t first, Py_ssize_t last, unsigned long long[:, ::1] out
)
cpdef void spread_down(
    const unsigned long long[:, ::1] bits, Py_ssize_t first, Py_ssize_t last, unsigned long long[:, ::1] out
)
cpdef void inner_sums(
    const unsigned char[:, :, ::1] pixels, const unsigned char[:, ::1] labels, double[:, ::1] sums,
    unsigned char[:, ::1] inner
)
cpdef void ink_tones(
    const unsigned char[:, ::1] own, const unsigned char[:, ::1] second, const unsigned char[:, ::1] share, int ink,
    Py_ssize_t first, Py_ssize_t last, unsigned char[:, ::1] out
)
cpdef void run_beneath(
    const unsigned char[:, ::1] own, const unsigned char[:, ::1] second, const unsigned char[:, ::1] share,
    const unsigned char[::1] upper, const float[:, ::1] away, double overlap, Py_ssize_t first, Py_ssize_t last,
    unsigned char[:, ::1] tones
)
cpdef void settle_seconds(const unsigned char[:, ::1] own, unsigned char[:, ::1] second, unsigned char[:, ::1] share)
cpdef void mark_crumbs(const unsigned char[:, ::1] labels, Py_ssize_t least, unsigned char[:, ::1] crumbs)

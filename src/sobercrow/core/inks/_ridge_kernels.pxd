from sobercrow.core.inks._mixture_kernels cimport Inks, Seen

cdef double RIDGE_SHARE, RIDGE_RESIDUE, RIDGE_SLACK, RIDGE_LEAD, RIDGE_FAINT

cdef Py_ssize_t _ridge_ink(Seen seen, const Inks* inks, Py_ssize_t p) noexcept nogil
cdef double _away(const unsigned char[:, :, ::1] pixels, Py_ssize_t row, Py_ssize_t column, const float* ink) noexcept nogil
cdef bint _stands_out(
    const unsigned char[:, :, ::1] pixels, Py_ssize_t row, Py_ssize_t column, const float* ink, double off
) noexcept nogil
cdef bint _is_peak(
    const unsigned char[:, :, ::1] pixels, Py_ssize_t row, Py_ssize_t column, Py_ssize_t dy, Py_ssize_t dx,
    Py_ssize_t reach, const float* ink, double off
) noexcept nogil
cpdef void find_ridges(
    const unsigned char[:, :, ::1] pixels, object mixer, double contrast, Py_ssize_t first, Py_ssize_t last,
    const unsigned long long[:, ::1] sure, const unsigned char[:, ::1] labels, unsigned char[:, ::1] around,
    unsigned char[:, ::1] likely
)

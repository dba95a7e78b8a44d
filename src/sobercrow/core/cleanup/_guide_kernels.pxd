cpdef read_profiles(
    const unsigned char[:, :] grey, const double[::1] start, const double[::1] end, Py_ssize_t windows, Py_ssize_t half,
    double paper, double most
)
cdef bint _beside_ink(const unsigned char[:, :] grey, Py_ssize_t row, Py_ssize_t column, double ink) noexcept nogil
cpdef void lift_line(
    unsigned char[:, :, :] pixels, const unsigned char[:, :] grey, const double[::1] start, const double[::1] end,
    const double[:, :, ::1] profiles, Py_ssize_t half, double paper, double contrast, double most
)

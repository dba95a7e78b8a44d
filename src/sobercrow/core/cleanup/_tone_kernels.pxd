cdef enum:
    NO_PAPER = 190  # between these tones a colour goes over from ink to paper, once tones are stretched
    ALL_PAPER = 235
    SHIFT = 12
    ONE = 4096      # tones are multiplied as whole numbers, in parts of this: quicker than as fractions

cpdef void apply_gain(
    const unsigned char[:, :, ::1] pixels, const float[:, ::1] grid, Py_ssize_t first, Py_ssize_t last,
    unsigned char[:, :, ::1] out
)
cdef void _hold_hues(const unsigned char* pixels, const int* gain, unsigned char* out, Py_ssize_t width) noexcept nogil
cpdef void shift_tones(
    const unsigned char[:, :, ::1] pixels, const unsigned char[:, ::1] before, const unsigned char[:, ::1] after,
    Py_ssize_t first, Py_ssize_t last, unsigned char[:, :, ::1] out
)
cpdef bint is_grey(const unsigned char[:, :, :] pixels)
cpdef void mix_channels(
    const unsigned char[:, :, :] pixels, double red, double green, double blue, Py_ssize_t first, Py_ssize_t last,
    unsigned char[:, ::1] out
)
cpdef void take_off_tint(
    unsigned char[:, :, ::1] pixels, const unsigned char[:, ::1] tones, const long long[::1] tint, Py_ssize_t first,
    Py_ssize_t last
)

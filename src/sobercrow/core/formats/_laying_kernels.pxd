cdef double NOTHING, ALL

cdef float _share(double winding, bint is_even_odd) noexcept nogil
cpdef void lay_colour(
    float[:, :, ::1] band, Py_ssize_t first, Py_ssize_t left, const double[:, ::1] steps, bint is_even_odd, float red,
    float green, float blue
)
cpdef void covers(const double[:, ::1] steps, bint is_even_odd, float[:, ::1] cover)
cpdef void to_bytes(const float[:, :, ::1] band, unsigned char[:, :, ::1] pixels)

cdef enum:
    KEPT = 4  # inks compared exactly with a colour: those nearest by plain distance

cdef double TWENTY_FIVE_7

cdef double difference(double l1, double a1, double b1, double l2, double a2, double b2) noexcept nogil
cpdef void differences(const double[:, :] first, const double[:, :] second, double[:, ::1] out)
cdef Py_ssize_t cell_of(const unsigned char* colour) noexcept nogil
cpdef void mark_cells(const unsigned char[:, :, ::1] pixels, Py_ssize_t first, Py_ssize_t last, unsigned char[::1] used)
cpdef void two_nearest(
    const double[:, :] cells, const double[:, :] inks, const unsigned char[::1] used, unsigned char[::1] nearest,
    unsigned char[::1] runner
)
cpdef void steps_between(const unsigned char[:, :, ::1] pixels, Py_ssize_t every, double[::1] counts)
cdef int most_apart(const unsigned char* one, const unsigned char* other) noexcept nogil
cpdef void count_flat(
    const unsigned char[:, :, ::1] pixels, int limit, Py_ssize_t first, Py_ssize_t last, double[:, ::1] sums
)
cpdef void nearest_centres(const double[:, :] points, const double[:, :] centres, long long[::1] own)
cpdef void crowd_weights(const double[:, :] points, const double[::1] weights, double reach, double[::1] crowds)

cdef double STRANGER, COLOUR_WEIGHT
cdef enum:
    MOST_INKS = 64

ctypedef (double, double, double) Weighed
ctypedef (double, double, double, double, double, double) Seen
ctypedef float[3] Colour
ctypedef const Colour* Colours

cdef struct Inks:
    # what a `Mixer` holds, for as long as that is there
    Py_ssize_t count
    Colours weighed
    Colours mixed
    Colours leaning
    const float* forth
    const float* back
    double top

cdef Inks inks_of(object mixer)
cpdef Weighed weighed(double r, double g, double b) noexcept nogil
cdef Seen seen_at(const unsigned char* colour, const Inks* inks) noexcept nogil
cdef double share_in(Seen seen, const Inks* inks, Py_ssize_t p, Py_ssize_t q) noexcept nogil
cdef double unlike(Seen seen, const Inks* inks, Py_ssize_t p, Py_ssize_t q, double share) noexcept nogil
cdef double _mostly(Seen seen, const Inks* inks, Py_ssize_t p, Py_ssize_t q) noexcept nogil
cdef Py_ssize_t list_near(unsigned long long around, Py_ssize_t count, unsigned char* listed) noexcept nogil
cdef bint _is_listed(const unsigned char* listed, Py_ssize_t many, Py_ssize_t p) noexcept nogil
cdef double cost_of(
    Seen seen, const unsigned char* listed, Py_ssize_t many, const Inks* inks, Py_ssize_t p, double stranger,
    Py_ssize_t banned
) noexcept nogil
cpdef Seen looked_at(const unsigned char[:, :, ::1] pixels, Py_ssize_t row, Py_ssize_t column, object mixer)
cpdef double share_of(Seen seen, object mixer, Py_ssize_t p, Py_ssize_t q)
cpdef double ink_cost(
    Seen seen, const unsigned char[::1] listed, object mixer, Py_ssize_t p, double stranger, Py_ssize_t banned
)
cpdef void unmix(
    const unsigned char[:, :, ::1] pixels, const unsigned long long[:, ::1] near, const unsigned long long[:, ::1] bits,
    object mixer, double noise, Py_ssize_t first, Py_ssize_t last, unsigned char[:, ::1] labels
)
cdef bint is_inner(const unsigned char[:, ::1] labels, Py_ssize_t row, Py_ssize_t column) noexcept nogil
cdef (Py_ssize_t, Py_ssize_t) _kinds_around(
    const unsigned char[:, ::1] labels, Py_ssize_t row, Py_ssize_t column, unsigned char* kinds, unsigned char* alike
) noexcept nogil
cpdef void calm(
    const unsigned char[:, :, ::1] pixels, const unsigned long long[:, ::1] near, object mixer, double noise, double pull,
    Py_ssize_t first, Py_ssize_t last, const unsigned char[:, ::1] before, unsigned char[:, ::1] labels
)
cpdef void shares(
    const unsigned char[:, :, ::1] pixels, object mixer, const unsigned char[::1] owner, Py_ssize_t first, Py_ssize_t last,
    const unsigned char[:, ::1] labels, unsigned char[:, ::1] second, unsigned char[:, ::1] share
)
cpdef void unexplained(
    const unsigned char[:, :, ::1] pixels, const unsigned long long[:, ::1] near, const unsigned char[:, ::1] labels,
    const unsigned char[:, ::1] asked, object mixer, bint without_own, Py_ssize_t first, Py_ssize_t last,
    float[:, ::1] out
)

cdef double LEAST_GAIN
cdef Py_ssize_t LONGEST_RUN

cdef struct Around:
    const long long* starts
    const long long* outer

cdef double _apart(const double[:, ::1] ends, Py_ssize_t one, Py_ssize_t other) noexcept nogil
cdef bint _ends_before(
    Around around, const long long[::1] position, Py_ssize_t node, Py_ssize_t low, Py_ssize_t high,
    Py_ssize_t limit
) noexcept nogil
cdef bint _has_outer_within(
    Around around, const long long[::1] position, Py_ssize_t node, Py_ssize_t low, Py_ssize_t high
) noexcept nogil
cdef void _turn(long long[::1] way, long long[::1] position, Py_ssize_t low, Py_ssize_t high) noexcept nogil
cdef void _freshen(const long long[::1] way, unsigned char[::1] fresh, Py_ssize_t low, Py_ssize_t high) noexcept nogil
cdef bint _reverse_somewhere(
    const double[:, ::1] ends, Around around, long long[::1] way, long long[::1] position,
    unsigned char[::1] fresh
) noexcept nogil
cdef (Py_ssize_t, bint) _best_gap(
    const double[:, ::1] ends, const long long[::1] way, Py_ssize_t low, Py_ssize_t high, double saved
) noexcept nogil
cdef bint _may_move(
    Around around, const long long[::1] way, const long long[::1] position, Py_ssize_t low,
    Py_ssize_t high, Py_ssize_t where, bint turned
) noexcept nogil
cdef void _move(
    long long[::1] way, long long[::1] position, Py_ssize_t low, Py_ssize_t high, Py_ssize_t where, bint turned
) noexcept nogil
cdef bint _move_somewhere(
    const double[:, ::1] ends, Around around, long long[::1] way, long long[::1] position,
    unsigned char[::1] fresh
) noexcept nogil
cpdef void shorten(
    const double[:, ::1] ends, const long long[::1] inner_first, const long long[::1] outer, long long[::1] way,
    long long[::1] position, Py_ssize_t rounds
)

cdef double MOST_CELLS

cdef Py_ssize_t _pairs(
    const double[:, ::1] places, const long long[::1] kinds, const long long[::1] lines, const double[::1] along,
    const double[::1] around, double reach, double roundabout, const Py_ssize_t[::1] first,
    const Py_ssize_t[::1] listed, const Py_ssize_t[::1] cells, Py_ssize_t columns, long long* into
) noexcept nogil
cpdef near_pairs(
    const double[:, ::1] places, const long long[::1] kinds, const long long[::1] lines, const double[::1] along,
    const double[::1] around, double reach, double roundabout
)

cdef double _side(double ax, double ay, double bx, double by, double x, double y) noexcept nogil
cdef Py_ssize_t _root(long long[::1] parent, Py_ssize_t k) noexcept nogil
cpdef long long crossings(
    const long long[::1] row, const long long[::1] side, const double[::1] low, const double[::1] high,
    const double[:, ::1] ends, const long long[::1] ring, const long long[::1] after,
    long long[::1] parent, unsigned char[::1] crossed, long long most
)
cpdef void turns_at(
    const double[:, ::1] places, const long long[::1] row_of, const long long[::1] own, bint of_own,
    const long long[::1] first, const long long[::1] side, const double[::1] high,
    const double[:, ::1] ends, const long long[::1] label, long long[:, ::1] turns
)

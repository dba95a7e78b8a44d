cdef double MOST_CELLS

cdef double to_segment(double x, double y, const double* a, const double* b) noexcept nogil
cdef void list_by_cells(
    const Py_ssize_t[::1] where, Py_ssize_t cells, Py_ssize_t[::1] first, Py_ssize_t[::1] listed
) noexcept nogil
cpdef nearest_segments(
    const double[:, ::1] points, const double[:, ::1] starts, const double[:, ::1] ends, double reach
)

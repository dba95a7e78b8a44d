cdef double MOST_CELLS

cdef double to_segment(double x, double y, const double* a, const double* b) noexcept nogil
cpdef nearest_segments(
    const double[:, ::1] points, const double[:, ::1] starts, const double[:, ::1] ends, double reach
)

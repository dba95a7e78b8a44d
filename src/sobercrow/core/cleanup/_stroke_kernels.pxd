cdef enum:
    ROWS_A_PIXEL = 8

cpdef void stroke_coverage(const double[:, ::1] points, double half, float[:, ::1] cover)
cpdef void polygon_coverage(const double[:, ::1] points, float[:, ::1] cover)

cpdef border_moments(const double[:, ::1] points)

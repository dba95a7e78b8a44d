cpdef enclosing(const double[:, ::1] points, const long long[::1] starts, const double[:, ::1] boxes, const double[:, ::1] probes)

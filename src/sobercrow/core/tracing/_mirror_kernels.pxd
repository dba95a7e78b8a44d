cpdef void mirror_differences(
    const double[:, ::1] points, const double[:, ::1] seen, Py_ssize_t begin, Py_ssize_t reach, double[::1] off,
    double[:, ::1] normals
)

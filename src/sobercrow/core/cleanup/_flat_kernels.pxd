cpdef void find_nearest(const float[:, ::1] picture, const float[:, ::1] colours, float[::1] away, long long[::1] own)
cpdef void find_mixtures(
    const float[:, ::1] picture, const float[:, ::1] colours, const unsigned char[:, ::1] about, const float[::1] away,
    double trace, double bonus, float[:, ::1] made
)

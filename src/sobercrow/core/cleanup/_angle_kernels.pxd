cpdef projection_scores(
    const double[:, ::1] points, const double[::1] directions, const double[::1] angles, double near_deg
)

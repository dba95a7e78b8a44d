from sobercrow.core.tracing._joint_kernels cimport Border
from sobercrow.core.tracing._sizes cimport Joint, Place, Row

cdef enum:
    CORNER_ROOM = 10  # room for so many corners a border point: each may hide two, and blunt ends have two

cdef double CORNERS_APART_PX, LEAST_STRETCH_PX, GAP_PX, END_GUARD_PX, LEVEL_SNAP_RAD
cdef int FIRST_ROUNDS, LAST_ROUNDS

cdef struct Fit:
    # how a border is fitted: tolerance in px, least turn of a corner, price of distance, width of the picture's edges
    double tolerance
    double corner_rad
    double smoothness
    double blur

cdef struct Chosen:
    # the joints chosen, what each is (0 corner, 1 smooth, 2 smooth at an extreme), and whether its piece is straight
    Joint* joints
    unsigned char* kinds
    unsigned char* lines

cdef Chosen _beyond(const Chosen* chosen, Py_ssize_t count) noexcept nogil
cdef (Py_ssize_t, double) _chain(
    const Border* border, const double* low, const double* high, bint ring, const Fit* by, const Chosen* out
) noexcept nogil
cdef Py_ssize_t _smooth_ring(const Border* border, const Fit* by, const Chosen* out, Py_ssize_t room) noexcept nogil
cdef void _initial_state(
    const double* xs, const double* ys, double* us, const Py_ssize_t* first_of, const Chosen* chosen, Py_ssize_t m,
    Row* state, unsigned char* is_corner
) noexcept nogil
cdef Py_ssize_t _corner_places(
    const Border* border, const long long* corners, Py_ssize_t many, double low, double high, double blur, Place* places
) noexcept nogil
cdef Py_ssize_t _placed_corners(
    const Border* border, const double* turns, double low, double high, const Fit* by, Place* places
) noexcept nogil
cdef Py_ssize_t _between(
    const Border* border, double* low, double* high, const Fit* by, const Chosen* out
) noexcept nogil
cdef void _adjusted(
    const Border* border, const Chosen* chosen, Py_ssize_t m, unsigned char* held, Row* anchors
) noexcept nogil
cdef Py_ssize_t fit_ring(const Border* border, const Fit* by, Row* anchors, unsigned char* kinds) noexcept nogil
cdef Py_ssize_t fit_line(
    Border* border, double* along, const double* ends, const Fit* by, Row* anchors, unsigned char* kinds
) noexcept nogil

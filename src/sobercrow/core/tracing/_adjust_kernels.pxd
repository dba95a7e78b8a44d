from sobercrow.core.tracing._sizes cimport Block, BothRow, Cubic, Point, Row

cdef double LINE_STIFFNESS, CORNER_PULL, SHORT_PX, THIRDS_PULL
cdef int ROUNDS

cdef struct Ring:
    # a closed contour by its joints: their unknowns, what they are, and where they were first placed
    Py_ssize_t count
    Row* state
    const unsigned char* is_corner
    const unsigned char* straight
    unsigned char* held
    Cubic* controls
    const Point* home

cdef struct Samples:
    # border points, piece by piece: their parameters there, how far each is to be trusted, its piece
    Py_ssize_t count
    const double* xs
    const double* ys
    double* us
    const double* weights
    const long long* owner

cdef struct Equations:
    Block* diagonal
    Block* side
    Row* right

cdef Equations equations_of(Py_ssize_t m) noexcept nogil
cdef void give_back(Equations* equations) noexcept nogil
cdef void place_controls(const Ring* ring) noexcept nogil
cdef void ways_at(const Row* state, Py_ssize_t i, Py_ssize_t j, double* ways) noexcept nogil
cdef void derivatives(
    double u, double nx, double ny, Py_ssize_t i, Py_ssize_t j, const Ring* ring, const double* ways, double* row
) noexcept nogil
cdef void accumulate(
    const Equations* to, Py_ssize_t i, Py_ssize_t j, const double* row, double value, double weight
) noexcept nogil
cdef void gather(BothRow* block, double* slope, const double* row, double value, double weight) noexcept nogil
cdef void spread(BothRow* block, double* slope, const Equations* to, Py_ssize_t i, Py_ssize_t j) noexcept nogil
cdef void _hold(const Equations* equations, Py_ssize_t i, Py_ssize_t unknown, Py_ssize_t m) noexcept nogil
cdef double add_priors(
    const Equations* to, const Ring* ring, double corner_pull, double thirds_pull, double short_pull, double damping
) noexcept nogil
cdef void take_step(const Equations* equations, const Ring* ring, double furthest) noexcept nogil
cdef double adjust_once(const Samples* samples, const Ring* ring, double damping) noexcept nogil
cdef void settle_all(const Samples* samples, const Ring* ring, int rounds) noexcept nogil

cpdef void settle(
    const double[::1] xs, const double[::1] ys, double[::1] us, const double[::1] weights, const long long[::1] owner,
    double[:, ::1] state, const unsigned char[::1] is_corner, const unsigned char[::1] straight,
    unsigned char[::1] held, double[:, ::1] controls, const double[:, ::1] home
)

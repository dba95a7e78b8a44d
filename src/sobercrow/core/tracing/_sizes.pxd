# Sizes that C must know when it compiles, and the rows of such sizes.
cdef enum:
    SAMPLES = 16  # border points looked at per piece, at most; a piece this short of freedom is known by so many
    ROOM = 32     # twice as many
    UNKNOWNS = 6
    BOTH = 12     # those of two joints

ctypedef double[UNKNOWNS] Row
ctypedef Row[UNKNOWNS] Block
ctypedef double[BOTH] BothRow
ctypedef double[2] Point
ctypedef double[8] Cubic  # x0 y0 x1 y1 x2 y2 x3 y3
ctypedef double[5] Node   # arc length, x, y, tangent x, tangent y
ctypedef double[6] Joint  # the same and the border to distrust beside it
ctypedef double[7] Stop   # a node, 1 for a corner, the border to distrust
ctypedef double[4] Place  # a corner: arc length, x, y, the border to distrust
ctypedef double[5] Side   # a line: x, y, direction x, direction y, root mean square distance of what it was fitted to

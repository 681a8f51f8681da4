"""Rows of pixels mixed by one blend mode each: two pixels at a time, as LLVM vectors, without a branch.

Source: W3C, *Compositing and Blending Level 1*, sections 9 and 10, multiplied out by both alphas. Pixels are
premultiplied. Each function mixes ``source`` onto ``target``: flat float32 arrays of one size, four items a pixel.
"""

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from spiralis.core.compositing.kernels.lanes import (
    constant,
    lane,
    larger,
    load,
    multiply_add,
    smaller,
    square_root,
    store,
)

#: What divides is never less.
_TINY = 1e-20


def _row(target, source, mixed):
    """Return signature and code of ``target = mixed(builder, source, target)`` for every pixel."""

    def codegen(context, builder, signature, arguments):
        t, s = arguments
        t_type, s_type = signature.args

        def pixels(index, count):
            above = load(context, builder, s_type, s, index, count)
            beneath = load(context, builder, t_type, t, index, count)
            store(context, builder, t_type, t, index, mixed(builder, above, beneath))

        size = context.make_array(t_type)(context, builder, t).nitems
        number = lambda value: ir.Constant(size.type, value)  # noqa: E731
        pairs = builder.and_(size, number(-8))
        with cgutils.for_range_slice(builder, number(0), pairs, number(8), size.type) as (index, _):
            pixels(index, 8)
        with cgutils.for_range_slice(builder, pairs, size, number(4), size.type) as (index, _):
            pixels(index, 4)
        return context.get_dummy_value()

    return types.void(target, source), codegen


def _ones(vector):
    return constant(1, vector.type.count)


def _over(builder, s, t):
    return multiply_add(builder, builder.fsub(_ones(s), lane(builder, s, 3)), t, s)


def _twice(vector):
    """Return twice for each colour, once for the alpha."""
    return ir.Constant(vector.type, [2.0, 2.0, 2.0, 1.0] * (vector.type.count // 4))


def _separable(both):
    """Return ``source (1 - alpha_t) + target (1 - alpha_s) + both``.

    ``both(builder, s, t, sa, ta)`` gives B(cb, cs) multiplied by both alphas, from premultiplied pixels and their
    alphas on all lanes; on the alpha lane it has to give the product of both.
    """

    def mixed(builder, s, t):
        sa, ta = lane(builder, s, 3), lane(builder, t, 3)
        alone = builder.fmul(s, builder.fsub(_ones(s), ta))
        beneath = multiply_add(builder, t, builder.fsub(_ones(s), sa), alone)
        return builder.fadd(beneath, both(builder, s, t, sa, ta))

    return mixed


def _multiplied(builder, s, t, sa, ta):
    return builder.fmul(s, t)


def _lit(builder, s, t, sa, ta, by, its):
    """Multiply or screen, as ``by`` is under or over the half of ``its`` alpha."""
    two = constant(2, s.type.count)
    low = builder.fmul(two, builder.fmul(s, t))
    far = builder.fmul(builder.fsub(ta, t), builder.fsub(sa, s))
    high = builder.fsub(builder.fmul(sa, ta), builder.fmul(two, far))
    return builder.select(builder.fcmp_ordered("<=", builder.fadd(by, by), its), low, high)


def _overlaid(builder, s, t, sa, ta):
    return _lit(builder, s, t, sa, ta, t, ta)


def _hard_lit(builder, s, t, sa, ta):
    return _lit(builder, s, t, sa, ta, s, sa)


def _quotient(builder, above, beneath):
    return builder.fdiv(above, larger(builder, beneath, constant(_TINY, above.type.count)))


def _dodged(builder, s, t, sa, ta):
    # sa ta min(1, cb / (1 - cs)), where sa - s is sa (1 - cs).
    bright = _quotient(builder, builder.fmul(larger(builder, t, constant(0, t.type.count)), sa), builder.fsub(sa, s))
    return builder.fmul(sa, smaller(builder, ta, bright))


def _burned(builder, s, t, sa, ta):
    # sa ta (1 - min(1, (1 - cb) / cs)).
    rest = larger(builder, builder.fsub(ta, t), constant(0, t.type.count))
    dark = smaller(builder, ta, _quotient(builder, builder.fmul(rest, sa), s))
    return builder.fmul(sa, builder.fsub(ta, dark))


def _softly_lit(builder, s, t, sa, ta):
    count = s.type.count
    cb, twice, both = _quotient(builder, t, ta), builder.fadd(s, s), builder.fmul(sa, t)
    dark = builder.fmul(builder.fsub(sa, twice), builder.fmul(t, builder.fsub(_ones(s), cb)))
    cubic = multiply_add(builder, constant(16, count), cb, constant(-12, count))
    cubic = builder.fmul(multiply_add(builder, cubic, cb, constant(4, count)), cb)
    root = square_root(builder, larger(builder, cb, constant(0, count)))
    lifted = builder.select(builder.fcmp_ordered("<=", cb, constant(0.25, count)), cubic, root)
    light = builder.fmul(builder.fsub(twice, sa), builder.fsub(builder.fmul(ta, lifted), t))
    return builder.select(
        builder.fcmp_ordered("<=", twice, sa), builder.fsub(both, dark), builder.fadd(both, light)
    )


def _darkened(builder, s, t, sa, ta):
    return smaller(builder, builder.fmul(s, ta), builder.fmul(t, sa))


def _lightened(builder, s, t, sa, ta):
    return larger(builder, builder.fmul(s, ta), builder.fmul(t, sa))


def _excluded(builder, s, t, sa, ta):
    both = multiply_add(builder, t, sa, builder.fmul(s, ta))
    return builder.fsub(both, builder.fmul(_twice(s), builder.fmul(s, t)))


def _different(builder, s, t):
    # s (1 - ta) + t (1 - sa) + s ta + t sa - 2 min(s ta, t sa): what is taken away comes back.
    least = smaller(builder, builder.fmul(s, lane(builder, t, 3)), builder.fmul(t, lane(builder, s, 3)))
    return builder.fsub(builder.fadd(s, t), builder.fmul(_twice(s), least))


def _screened(builder, s, t):
    # What is brighter than 1 gets no darker by what lies over it.
    one = _ones(s)
    return builder.fsub(builder.fadd(s, t), builder.fmul(smaller(builder, s, one), smaller(builder, t, one)))


def _added(builder, s, t):
    # Light over 1 stays, for what follows may take it back; only the output is cut.
    limit = ir.Constant(s.type, ([float("inf")] * 3 + [1.0]) * (s.type.count // 4))
    return smaller(builder, builder.fadd(s, t), limit)


def _cut(builder, s, t):
    # Porter and Duff's destination-out (W3C Compositing, section 9.1.9).
    zero, one = constant(0, s.type.count), _ones(s)
    alpha = larger(builder, smaller(builder, lane(builder, s, 3), one), zero)
    return builder.fmul(t, builder.fsub(one, alpha))


def _clung(builder, s, t):
    # Source-atop (section 9.1.10).
    sa, ta = lane(builder, s, 3), lane(builder, t, 3)
    return multiply_add(builder, t, builder.fsub(_ones(s), sa), builder.fmul(s, ta))


def _kept_within(builder, s, t):
    # Destination-in (section 9.1.7).
    return builder.fmul(t, lane(builder, s, 3))


def _slipped_under(builder, s, t):
    # Destination-atop (section 9.1.11).
    sa, ta = lane(builder, s, 3), lane(builder, t, 3)
    return multiply_add(builder, s, builder.fsub(_ones(s), ta), builder.fmul(t, sa))


@intrinsic
def over_pixels(typing_context, target, source):
    """Source-over."""
    return _row(target, source, _over)


@intrinsic
def multiply_pixels(typing_context, target, source):
    """Multiply."""
    return _row(target, source, _separable(_multiplied))


@intrinsic
def screen_pixels(typing_context, target, source):
    """Screen."""
    return _row(target, source, _screened)


@intrinsic
def overlay_pixels(typing_context, target, source):
    """Overlay."""
    return _row(target, source, _separable(_overlaid))


@intrinsic
def hard_light_pixels(typing_context, target, source):
    """Hard light."""
    return _row(target, source, _separable(_hard_lit))


@intrinsic
def soft_light_pixels(typing_context, target, source):
    """Soft light."""
    return _row(target, source, _separable(_softly_lit))


@intrinsic
def dodge_pixels(typing_context, target, source):
    """Colour dodge."""
    return _row(target, source, _separable(_dodged))


@intrinsic
def burn_pixels(typing_context, target, source):
    """Colour burn."""
    return _row(target, source, _separable(_burned))


@intrinsic
def darken_pixels(typing_context, target, source):
    """Darken."""
    return _row(target, source, _separable(_darkened))


@intrinsic
def lighten_pixels(typing_context, target, source):
    """Lighten."""
    return _row(target, source, _separable(_lightened))


@intrinsic
def difference_pixels(typing_context, target, source):
    """Difference."""
    return _row(target, source, _different)


@intrinsic
def exclusion_pixels(typing_context, target, source):
    """Exclusion."""
    return _row(target, source, _separable(_excluded))


@intrinsic
def plus_lighter_pixels(typing_context, target, source):
    """Plus-lighter."""
    return _row(target, source, _added)


@intrinsic
def cut_through_pixels(typing_context, target, source):
    """Take away what the source covers."""
    return _row(target, source, _cut)


@intrinsic
def cling_pixels(typing_context, target, source):
    """Lie over what is there, and nowhere else."""
    return _row(target, source, _clung)


@intrinsic
def keep_within_pixels(typing_context, target, source):
    """Keep what is there only where the source covers it."""
    return _row(target, source, _kept_within)


@intrinsic
def slip_under_pixels(typing_context, target, source):
    """Lie beneath what is there, and keep that only where the source covers it."""
    return _row(target, source, _slipped_under)

"""Four-lane arithmetic on one pixel at a time, as LLVM vectors.

The compiler does not find these by itself: index checks and the alpha lane stop it. Each function reads
four neighbouring items of flat arrays at the given index and writes four; indices are not checked.
"""

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

_FLOAT = ir.FloatType()
_FLOATS = ir.VectorType(_FLOAT, 4)
_BYTES = ir.VectorType(ir.IntType(8), 4)
_INTS = ir.VectorType(ir.IntType(32), 4)


def _address(context, builder, array_type, array, index, vector):
    data = context.make_array(array_type)(context, builder, array).data
    return builder.bitcast(builder.gep(data, [index]), ir.PointerType(vector))


def _load(context, builder, array_type, array, index):
    """Load four items as floats, whether they are stored as bytes or as floats."""
    if array_type.dtype == types.uint8:
        raw = builder.load(_address(context, builder, array_type, array, index, _BYTES), align=1)
        return builder.sitofp(builder.zext(raw, _INTS), _FLOATS)
    return builder.load(_address(context, builder, array_type, array, index, _FLOATS), align=4)


def _store(context, builder, array_type, array, index, value):
    builder.store(value, _address(context, builder, array_type, array, index, _FLOATS), align=4)


def _splat(builder, scalar):
    vector = builder.insert_element(ir.Constant(_FLOATS, ir.Undefined), scalar, ir.Constant(ir.IntType(32), 0))
    return builder.shuffle_vector(vector, ir.Constant(_FLOATS, ir.Undefined), ir.Constant(_INTS, [0] * 4))


def _constant(number):
    return ir.Constant(_FLOATS, [float(np.float32(number))] * 4)


def _lane(builder, vector, lane):
    return builder.shuffle_vector(vector, ir.Constant(_FLOATS, ir.Undefined), ir.Constant(_INTS, [lane] * 4))


def _multiply_add(builder, a, b, c):
    return builder.fadd(builder.fmul(a, b), c)


def _smaller(builder, a, b):
    return builder.select(builder.fcmp_ordered("<", a, b), a, b)


def _larger(builder, a, b):
    return builder.select(builder.fcmp_ordered(">", a, b), a, b)


@intrinsic
def over4(typing_context, target, i, source, j):
    """``target[i:i+4] = source[j:j+4] + (1 - source[j+3]) * target[i:i+4]`` on float32 arrays."""

    def codegen(context, builder, signature, arguments):
        t, i, s, j = arguments
        above = _load(context, builder, signature.args[2], s, j)
        below = _load(context, builder, signature.args[0], t, i)
        keep = builder.fsub(_constant(1), _lane(builder, above, 3))
        _store(context, builder, signature.args[0], t, i, _multiply_add(builder, keep, below, above))
        return context.get_dummy_value()

    return types.void(target, types.intp, source, types.intp), codegen


#: Twice each colour, once the alpha.
_TWICE = ir.Constant(_FLOATS, [2.0, 2.0, 2.0, 1.0])


def _blending(target, source, mixed):
    """Return signature and code of ``target = source (1 - alpha_t) + target (1 - alpha_s) + mixed``.

    ``mixed(builder, s, t, sa, ta)`` gives B(cb, cs) multiplied by both alphas, from premultiplied pixels and their
    alphas on all lanes; on the alpha lane it has to give the product of both.
    """

    def codegen(context, builder, signature, arguments):
        target, i, source, j = arguments
        s = _load(context, builder, signature.args[2], source, j)
        t = _load(context, builder, signature.args[0], target, i)
        sa, ta = _lane(builder, s, 3), _lane(builder, t, 3)
        alone = builder.fmul(s, builder.fsub(_constant(1), ta))
        beneath = _multiply_add(builder, t, builder.fsub(_constant(1), sa), alone)
        value = builder.fadd(beneath, mixed(builder, s, t, sa, ta))
        _store(context, builder, signature.args[0], target, i, value)
        return context.get_dummy_value()

    return types.void(target, types.intp, source, types.intp), codegen


def _multiplied(builder, s, t, sa, ta):
    return builder.fmul(s, t)


def _lit(builder, s, t, sa, ta, by, its):
    """Multiply or screen, as ``by`` is under or over the half of ``its`` alpha."""
    low = builder.fmul(_constant(2), builder.fmul(s, t))
    far = builder.fmul(builder.fsub(ta, t), builder.fsub(sa, s))
    high = builder.fsub(builder.fmul(sa, ta), builder.fmul(_constant(2), far))
    return builder.select(builder.fcmp_ordered("<=", builder.fadd(by, by), its), low, high)


def _overlaid(builder, s, t, sa, ta):
    return _lit(builder, s, t, sa, ta, t, ta)


def _hard_lit(builder, s, t, sa, ta):
    return _lit(builder, s, t, sa, ta, s, sa)


def _darkened(builder, s, t, sa, ta):
    return _smaller(builder, builder.fmul(s, ta), builder.fmul(t, sa))


def _lightened(builder, s, t, sa, ta):
    return _larger(builder, builder.fmul(s, ta), builder.fmul(t, sa))


def _different(builder, s, t, sa, ta):
    one, other = builder.fmul(s, ta), builder.fmul(t, sa)
    return builder.fsub(builder.fadd(one, other), builder.fmul(_TWICE, _smaller(builder, one, other)))


def _excluded(builder, s, t, sa, ta):
    both = _multiply_add(builder, t, sa, builder.fmul(s, ta))
    return builder.fsub(both, builder.fmul(_TWICE, builder.fmul(s, t)))


@intrinsic
def multiply4(typing_context, target, i, source, j):
    """Multiply ``source[j:j+4]`` onto ``target[i:i+4]``, premultiplied float32 arrays."""
    return _blending(target, source, _multiplied)


@intrinsic
def overlay4(typing_context, target, i, source, j):
    """The same by overlay."""
    return _blending(target, source, _overlaid)


@intrinsic
def hard_light4(typing_context, target, i, source, j):
    """The same by hard light."""
    return _blending(target, source, _hard_lit)


@intrinsic
def darken4(typing_context, target, i, source, j):
    """The same by darken."""
    return _blending(target, source, _darkened)


@intrinsic
def lighten4(typing_context, target, i, source, j):
    """The same by lighten."""
    return _blending(target, source, _lightened)


@intrinsic
def difference4(typing_context, target, i, source, j):
    """The same by difference."""
    return _blending(target, source, _different)


@intrinsic
def exclusion4(typing_context, target, i, source, j):
    """The same by exclusion."""
    return _blending(target, source, _excluded)


@intrinsic
def colour4(typing_context, row, i, steps, s):
    """Replace ``row[i:i+4]`` by ``sum(row[i + c] * steps[s + 4 c : s + 4 c + 4])``, nothing below zero."""

    def codegen(context, builder, signature, arguments):
        row, i, steps, s = arguments
        pixel = _load(context, builder, signature.args[0], row, i)
        total = _constant(0)
        for channel in range(4):
            place = builder.add(s, ir.Constant(s.type, 4 * channel))
            column = _load(context, builder, signature.args[2], steps, place)
            total = _multiply_add(builder, _lane(builder, pixel, channel), column, total)
        _store(context, builder, signature.args[0], row, i, _larger(builder, total, _constant(0)))
        return context.get_dummy_value()

    return types.void(row, types.intp, steps, types.intp), codegen


@intrinsic
def scale4(typing_context, row, i, pixels, p, weight):
    """``row[i:i+4] = weight * pixels[p:p+4]``; pixels are uint8 or float32."""

    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, weight = arguments
        value = builder.fmul(_splat(builder, weight), _load(context, builder, signature.args[2], pixels, p))
        _store(context, builder, signature.args[0], row, i, value)
        return context.get_dummy_value()

    return types.void(row, types.intp, pixels, types.intp, types.float32), codegen


@intrinsic
def mix4(typing_context, row, i, pixels, p, first, q, second):
    """``row[i:i+4] = first * pixels[p:p+4] + second * pixels[q:q+4]``; pixels are uint8 or float32."""

    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, first, q, second = arguments
        value = builder.fmul(_splat(builder, first), _load(context, builder, signature.args[2], pixels, p))
        other = _load(context, builder, signature.args[2], pixels, q)
        _store(
            context, builder, signature.args[0], row, i, _multiply_add(builder, _splat(builder, second), other, value)
        )
        return context.get_dummy_value()

    return types.void(row, types.intp, pixels, types.intp, types.float32, types.intp, types.float32), codegen


def _bilinear(row, pixels, adding):
    """Return signature and code of the weighted sum of four pixels, stored or added."""

    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, q, *weights = arguments
        four = ir.Constant(p.type, 4)
        places = (p, builder.add(p, four), q, builder.add(q, four))
        total = _load(context, builder, signature.args[0], row, i) if adding else _constant(0)
        for place, weight in zip(places, weights, strict=True):
            value = _load(context, builder, signature.args[2], pixels, place)
            total = _multiply_add(builder, _splat(builder, weight), value, total)
        _store(context, builder, signature.args[0], row, i, total)
        return context.get_dummy_value()

    weight = types.float32
    return types.void(row, types.intp, pixels, types.intp, types.intp, weight, weight, weight, weight), codegen


@intrinsic
def bilinear4(typing_context, row, i, pixels, p, q, w00, w01, w10, w11):
    """Write the weighted sum of pixels p, p + 1 (the upper pair) and q, q + 1 (the lower) to ``row[i:i+4]``."""
    return _bilinear(row, pixels, adding=False)


@intrinsic
def bilinear_add4(typing_context, row, i, pixels, p, q, w00, w01, w10, w11):
    """Add what ``bilinear4`` would write to ``row[i:i+4]``."""
    return _bilinear(row, pixels, adding=True)


@intrinsic
def bytes4(typing_context, out, o, source, i, threshold):
    """Store premultiplied float32 as four bytes, dithered by ``threshold``; no colour exceeds its alpha."""

    def codegen(context, builder, signature, arguments):
        out, o, source, i, threshold = arguments
        value = builder.fmul(_load(context, builder, signature.args[2], source, i), _constant(255))
        value = _larger(builder, _smaller(builder, value, _constant(255)), _constant(0))
        last = ir.Constant(ir.IntType(32), 3)
        noise = builder.insert_element(_splat(builder, threshold), ir.Constant(_FLOAT, 0.5), last)
        whole = builder.fptosi(builder.fadd(value, noise), _INTS)
        alpha = builder.shuffle_vector(whole, ir.Constant(_INTS, ir.Undefined), ir.Constant(_INTS, [3] * 4))
        whole = builder.select(builder.icmp_signed("<", whole, alpha), whole, alpha)
        place = _address(context, builder, signature.args[0], out, o, _BYTES)
        builder.store(builder.trunc(whole, _BYTES), place, align=1)
        return context.get_dummy_value()

    return types.void(out, types.intp, source, types.intp, types.float32), codegen


@intrinsic
def as_pointer(typing_context, address):
    """Turn an integer address into a pointer, so that one table can name buffers of any number."""

    def codegen(context, builder, signature, arguments):
        return builder.inttoptr(arguments[0], cgutils.voidptr_t)

    return types.voidptr(address), codegen

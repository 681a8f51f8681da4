"""Pixels between sRGB-encoded and linear light, premultiplied, four at once or one by the very same sums."""

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from spiralis.core.compositing.kernels.lanes import (
    constant,
    lane,
    larger,
    load,
    multiply_add,
    smaller,
    splat,
    square_root,
    store,
)

#: What is clearer than this is clear: one over its alpha would leave what float32 can hold.
CLEAR = np.float32(1e-20)
#: The curved parts of sRGB are 1 + (t - 1) R(t): R's numbers from t's power 0 on, whose largest error is the
#: smallest that a polynomial of that degree has. To encode, t is the fourth root of light; to decode, t = sqrt(u), and
#: the value is u u (1 + (t - 1) R(t)), u being what IEC 61966-2-1 raises to 2.4.
_ENCODING = (1.0584712, 0.934524292, -0.524703804, 0.623613339, -0.571137777, 0.311481828, -0.0739484072)
_DECODING = (0.971839646, -0.456484462, 0.802953984, -1.1635623, 1.09975096, -0.590193167, 0.135730316)
#: u = slope v + rest, which is just 1 for a v of 1.
_SLOPE = np.float32(1 / 1.055)
_REST = np.float32(1) - _SLOPE


def _curve(builder, numbers, t):
    """Return 1 + (t - 1) R(t)."""
    count = t.type.count
    total = constant(numbers[-1], count)
    for number in numbers[-2::-1]:
        total = multiply_add(builder, total, t, constant(number, count))
    one = constant(1, count)
    return multiply_add(builder, builder.fsub(t, one), total, one)


def _encoded(builder, value):
    count = value.type.count
    curved = _curve(builder, _ENCODING, square_root(builder, square_root(builder, value)))
    straight = builder.fmul(value, constant(12.92, count))
    return builder.select(builder.fcmp_ordered(">", value, constant(0.0031308, count)), curved, straight)


def _decoded(builder, value):
    count = value.type.count
    u = multiply_add(builder, value, constant(_SLOPE, count), constant(_REST, count))
    curved = builder.fmul(builder.fmul(u, u), _curve(builder, _DECODING, square_root(builder, u)))
    straight = builder.fmul(value, constant(1 / 12.92, count))
    return builder.select(builder.fcmp_ordered(">", value, constant(0.04045, count)), curved, straight)


def _through(curve, count):
    """Return the code that sends as many premultiplied pixels as ``count`` lanes hold through a curve."""

    def codegen(context, builder, signature, arguments):
        out, i, pixels, scale = arguments
        pixel = load(context, builder, signature.args[2], pixels, i, count)
        pixel = builder.fmul(pixel, splat(builder, scale, count))
        alpha = lane(builder, pixel, 3)
        seen = builder.fcmp_ordered(">", alpha, constant(CLEAR, count))
        value = builder.fdiv(pixel, builder.select(seen, alpha, constant(1, count)))
        value = curve(builder, smaller(builder, larger(builder, value, constant(0, count)), constant(1, count)))
        # Alpha itself comes from the other hand of the shuffle.
        value = builder.fmul(value, alpha)
        order = [count + n if n % 4 == 3 else n for n in range(count)]
        value = builder.shuffle_vector(value, alpha, ir.Constant(ir.VectorType(ir.IntType(32), count), order))
        store(context, builder, signature.args[0], out, i, builder.select(seen, value, pixel))
        return context.get_dummy_value()

    return codegen


@intrinsic
def encode16(typing_context, out, i, pixels, scale):
    """Write the sRGB values of the linear light of four premultiplied pixels, ``scale`` times, to ``out[i:i+16]``.

    They come from ``pixels[i:i+16]``; light over 1 is cut to that, and what is next to clear stays as it is.
    """
    return types.void(out, types.intp, pixels, types.float32), _through(_encoded, 16)


@intrinsic
def encode4(typing_context, out, i, pixels, scale):
    """Do as ``encode16`` with one pixel, by the very same sums."""
    return types.void(out, types.intp, pixels, types.float32), _through(_encoded, 4)


@intrinsic
def decode16(typing_context, out, i, pixels, scale):
    """Write the linear light of sRGB values; arguments as for ``encode16``."""
    return types.void(out, types.intp, pixels, types.float32), _through(_decoded, 16)


@intrinsic
def decode4(typing_context, out, i, pixels, scale):
    """Do as ``decode16`` with one pixel, by the very same sums."""
    return types.void(out, types.intp, pixels, types.float32), _through(_decoded, 4)


def _within(count):
    def codegen(context, builder, signature, arguments):
        pixels, i, scale = arguments
        pixel = load(context, builder, signature.args[0], pixels, i, count)
        pixel = builder.fmul(pixel, splat(builder, scale, count))
        bright = builder.fcmp_ordered(">", pixel, lane(builder, pixel, 3))
        flags = ir.IntType(count)
        return builder.icmp_unsigned("==", builder.bitcast(bright, flags), ir.Constant(flags, 0))

    return codegen


@intrinsic
def within16(typing_context, pixels, i, scale):
    """Whether no colour of four premultiplied pixels, ``scale`` times, is over 1."""
    return types.boolean(pixels, types.intp, types.float32), _within(16)


@intrinsic
def within4(typing_context, pixels, i, scale):
    """Whether no colour of one premultiplied pixel, ``scale`` times, is over 1."""
    return types.boolean(pixels, types.intp, types.float32), _within(4)

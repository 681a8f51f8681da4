"""Eight pixels, or blocks of two by two, at a time from premultiplied float32 to BT.709 limited range bytes.

Source: ITU-R BT.709-6. The compiler does not find these by itself: four channels that lie side by side stop it.
"""

from numba import types
from numba.extending import intrinsic

from spiralis.core.compositing.kernels.lanes import (
    constant,
    larger,
    load,
    multiply_add,
    shuffled,
    smaller,
    store_bytes,
)

RED, GREEN, BLUE = 0.2126, 0.7152, 0.0722
#: From the sum of four pixels' blue or red less their luma to the plane's levels.
TO_BLUE, TO_RED = 224.0 * 0.25 / 1.8556, 224.0 * 0.25 / 1.5748


def _clipped(builder, value, low, high):
    count = value.type.count
    return smaller(builder, larger(builder, value, constant(low, count)), constant(high, count))


def _luma(builder, channels):
    red, green, blue = channels
    both = multiply_add(builder, green, constant(GREEN, 8), builder.fmul(red, constant(RED, 8)))
    return multiply_add(builder, blue, constant(BLUE, 8), both)


def _every(builder, vector, step, first):
    return shuffled(builder, vector, [first + step * i for i in range(8)])


@intrinsic
def luma8(typing_context, pixels, i, thresholds, t, out, o):
    """Write the luma of the pixels at items i to i + 31, dithered by ``thresholds[t:t+8]``, to ``out[o:o+8]``."""

    def codegen(context, builder, signature, arguments):
        pixels, i, thresholds, t, out, o = arguments
        row = load(context, builder, signature.args[0], pixels, i, 32)
        value = _clipped(builder, _luma(builder, [_every(builder, row, 4, c) for c in range(3)]), 0, 1)
        noise = load(context, builder, signature.args[2], thresholds, t, 8)
        level = builder.fadd(multiply_add(builder, value, constant(219, 8), constant(16, 8)), noise)
        store_bytes(context, builder, signature.args[4], out, o, smaller(builder, level, constant(255, 8)))
        return context.get_dummy_value()

    index = types.intp
    return types.void(pixels, index, thresholds, index, out, index), codegen


@intrinsic
def chroma8(typing_context, pixels, upper, lower, thresholds, t, blue, red, o):
    """Write the chroma of eight blocks of two by two pixels to ``blue[o:o+8]`` and ``red[o:o+8]``.

    The rows' first items are ``upper`` and ``lower``; every other one of ``thresholds[t:t+16]`` dithers.
    """

    def codegen(context, builder, signature, arguments):
        pixels, upper, lower, thresholds, t, blue, red, o = arguments
        rows = (load(context, builder, signature.args[0], pixels, place, 64) for place in (upper, lower))
        both = builder.fadd(*(_clipped(builder, row, 0, 1) for row in rows))
        sums = [builder.fadd(_every(builder, both, 8, c), _every(builder, both, 8, c + 4)) for c in range(3)]
        light = _luma(builder, sums)
        noise = _every(builder, load(context, builder, signature.args[3], thresholds, t, 16), 2, 0)
        for plane, kind, channel, gain in ((blue, 5, 2, TO_BLUE), (red, 6, 0, TO_RED)):
            far = builder.fsub(sums[channel], light)
            level = builder.fadd(multiply_add(builder, far, constant(gain, 8), constant(128, 8)), noise)
            store_bytes(context, builder, signature.args[kind], plane, o, _clipped(builder, level, 0, 255))
        return context.get_dummy_value()

    index = types.intp
    return types.void(pixels, index, index, thresholds, index, blue, red, index), codegen

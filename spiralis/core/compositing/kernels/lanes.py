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
_BYTES = ir.VectorType(ir.IntType(8), 4)
_INTS = ir.VectorType(ir.IntType(32), 4)


def floats(count):
    """Return the type of so many floats in one register."""
    return ir.VectorType(_FLOAT, count)


def _address(context, builder, array_type, array, index, vector):
    data = context.make_array(array_type)(context, builder, array).data
    return builder.bitcast(builder.gep(data, [index]), ir.PointerType(vector))


def load(context, builder, array_type, array, index, count=4):
    """Load items as floats, whether they are stored as bytes or as floats."""
    if array_type.dtype == types.uint8:
        stored = ir.VectorType(ir.IntType(8), count)
        raw = builder.load(_address(context, builder, array_type, array, index, stored), align=1)
        return builder.sitofp(builder.zext(raw, ir.VectorType(ir.IntType(32), count)), floats(count))
    return builder.load(_address(context, builder, array_type, array, index, floats(count)), align=4)


def store(context, builder, array_type, array, index, value):
    """Store floats."""
    builder.store(value, _address(context, builder, array_type, array, index, value.type), align=4)


def store_bytes(context, builder, array_type, array, index, value):
    """Store floats between 0 and 256, cut down to whole numbers, as bytes."""
    count = value.type.count
    whole = builder.fptosi(value, ir.VectorType(ir.IntType(32), count))
    raw = builder.trunc(whole, ir.VectorType(ir.IntType(8), count))
    builder.store(raw, _address(context, builder, array_type, array, index, raw.type), align=1)


def shuffled(builder, vector, lanes):
    """Return the named lanes of a vector."""
    return builder.shuffle_vector(vector, vector, ir.Constant(ir.VectorType(ir.IntType(32), len(lanes)), lanes))


def splat(builder, scalar, count=4):
    """Return a scalar on all lanes."""
    vector = builder.insert_element(ir.Constant(floats(count), ir.Undefined), scalar, ir.Constant(ir.IntType(32), 0))
    return shuffled(builder, vector, [0] * count)


def constant(number, count=4):
    """Return a number on all lanes."""
    return ir.Constant(floats(count), [float(np.float32(number))] * count)


def lane(builder, vector, number):
    """Return each pixel's channel of that number on all lanes of the pixel."""
    return shuffled(builder, vector, [4 * (i // 4) + number for i in range(vector.type.count)])


def multiply_add(builder, a, b, c):
    """Return a b + c, rounded twice, so that it is the same on every machine."""
    return builder.fadd(builder.fmul(a, b), c)


def smaller(builder, a, b):
    """Return the smaller of each pair of lanes."""
    return builder.select(builder.fcmp_ordered("<", a, b), a, b)


def larger(builder, a, b):
    """Return the larger of each pair of lanes."""
    return builder.select(builder.fcmp_ordered(">", a, b), a, b)


def square_root(builder, vector):
    """Return the square root of each lane."""
    made, name = ir.FunctionType(vector.type, [vector.type]), f"llvm.sqrt.v{vector.type.count}f32"
    return builder.call(cgutils.get_or_insert_function(builder.module, made, name), [vector])


@intrinsic
def colour4(typing_context, row, i, steps, s):
    """Replace ``row[i:i+4]`` by ``sum(row[i + c] * steps[s + 4 c : s + 4 c + 4])``, nothing below zero."""

    def codegen(context, builder, signature, arguments):
        row, i, steps, s = arguments
        pixel = load(context, builder, signature.args[0], row, i)
        total = constant(0)
        for channel in range(4):
            place = builder.add(s, ir.Constant(s.type, 4 * channel))
            column = load(context, builder, signature.args[2], steps, place)
            total = multiply_add(builder, lane(builder, pixel, channel), column, total)
        store(context, builder, signature.args[0], row, i, larger(builder, total, constant(0)))
        return context.get_dummy_value()

    return types.void(row, types.intp, steps, types.intp), codegen


@intrinsic
def scale4(typing_context, row, i, pixels, p, weight):
    """``row[i:i+4] = weight * pixels[p:p+4]``; pixels are uint8 or float32."""

    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, weight = arguments
        value = builder.fmul(splat(builder, weight), load(context, builder, signature.args[2], pixels, p))
        store(context, builder, signature.args[0], row, i, value)
        return context.get_dummy_value()

    return types.void(row, types.intp, pixels, types.intp, types.float32), codegen


@intrinsic
def mix4(typing_context, row, i, pixels, p, first, q, second):
    """``row[i:i+4] = first * pixels[p:p+4] + second * pixels[q:q+4]``; pixels are uint8 or float32."""

    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, first, q, second = arguments
        value = builder.fmul(splat(builder, first), load(context, builder, signature.args[2], pixels, p))
        other = load(context, builder, signature.args[2], pixels, q)
        store(
            context, builder, signature.args[0], row, i, multiply_add(builder, splat(builder, second), other, value)
        )
        return context.get_dummy_value()

    return types.void(row, types.intp, pixels, types.intp, types.float32, types.intp, types.float32), codegen


def _lerped(adding, over=False):
    def codegen(context, builder, signature, arguments):
        row, i, pixels, p, q, across, down, strength = arguments
        upper, lower = (load(context, builder, signature.args[2], pixels, place, 8) for place in (p, q))
        both = multiply_add(builder, builder.fsub(lower, upper), splat(builder, down, 8), upper)
        left, right = shuffled(builder, both, [0, 1, 2, 3]), shuffled(builder, both, [4, 5, 6, 7])
        value = multiply_add(builder, builder.fsub(right, left), splat(builder, across), left)
        value = builder.fmul(value, splat(builder, strength))
        if over:
            clear = builder.fsub(constant(1), lane(builder, value, 3))
            value = multiply_add(builder, clear, load(context, builder, signature.args[0], row, i), value)
        if adding:
            value = builder.fadd(load(context, builder, signature.args[0], row, i), value)
        store(context, builder, signature.args[0], row, i, value)
        return context.get_dummy_value()

    return codegen


def _lerp_signature(row, pixels):
    part = types.float32
    return types.void(row, types.intp, pixels, types.intp, types.intp, part, part, part)


@intrinsic
def lerp4(typing_context, row, i, pixels, p, q, across, down, strength):
    """Write what lies between pixels p, p + 1 (the upper pair) and q, q + 1 (the lower) to ``row[i:i+4]``.

    ``across`` and ``down`` are the parts of the way to the right and the lower ones; the sum is taken ``strength``
    times.
    """
    return _lerp_signature(row, pixels), _lerped(adding=False)


@intrinsic
def lerp_add4(typing_context, row, i, pixels, p, q, across, down, strength):
    """Add what ``lerp4`` would write to ``row[i:i+4]``."""
    return _lerp_signature(row, pixels), _lerped(adding=True)


@intrinsic
def lerp_over4(typing_context, row, i, pixels, p, q, across, down, strength):
    """Lay what ``lerp4`` would write over ``row[i:i+4]`` (source-over)."""
    return _lerp_signature(row, pixels), _lerped(adding=False, over=True)


@intrinsic
def lerp_sum8(typing_context, sums, i, pixels, corners, across, down, k, stride, weight):
    """Add what ``lerp4`` would write of place k to ``sums[i:i+8]``: the share of the left pair, that of the right.

    ``corners`` (int32) holds the first item of each place's upper left pixel; ``fold8`` puts the two shares together.
    """

    def codegen(context, builder, signature, arguments):
        sums, i, pixels, corners, across, down, k, stride, weight = arguments

        def item(number, array):
            data = context.make_array(signature.args[number])(context, builder, array).data
            return builder.load(builder.gep(data, [k]))

        corner = builder.sext(item(3, corners), stride.type)
        upper, lower = (load(context, builder, signature.args[2], pixels, place, 8)
                        for place in (corner, builder.add(corner, stride)))  # fmt: skip
        both = multiply_add(builder, builder.fsub(lower, upper), splat(builder, item(5, down), 8), upper)
        right = builder.fmul(item(4, across), weight)
        left = builder.fsub(weight, right)
        lanes = ir.Constant(ir.VectorType(ir.IntType(32), 8), list(range(8)))
        shares = builder.shuffle_vector(splat(builder, left), splat(builder, right), lanes)
        total = load(context, builder, signature.args[0], sums, i, 8)
        store(context, builder, signature.args[0], sums, i, multiply_add(builder, both, shares, total))
        return context.get_dummy_value()

    index = types.intp
    return types.void(sums, index, pixels, corners, across, down, index, index, types.float32), codegen


@intrinsic
def fold8(typing_context, row, i, sums, k):
    """Write the two halves of ``sums[k:k+8]`` together to ``row[i:i+4]``."""

    def codegen(context, builder, signature, arguments):
        row, i, sums, k = arguments
        total = load(context, builder, signature.args[2], sums, k, 8)
        value = builder.fadd(shuffled(builder, total, [0, 1, 2, 3]), shuffled(builder, total, [4, 5, 6, 7]))
        store(context, builder, signature.args[0], row, i, value)
        return context.get_dummy_value()

    return types.void(row, types.intp, sums, types.intp), codegen


@intrinsic
def add_bright4(typing_context, out, o, pixels, i, threshold, tint):
    """Add the light of a pixel beyond a brightness to ``out[o:o+4]``, its hue kept, times ``tint[0:3]``.

    ``threshold`` is for what is opaque. The alpha that is added is the largest of the three colours.
    """

    def codegen(context, builder, signature, arguments):
        out, o, pixels, i, threshold, tint = arguments
        pixel = load(context, builder, signature.args[2], pixels, i)
        colour = load(context, builder, signature.args[5], tint, ir.Constant(o.type, 0))
        weights = ir.Constant(floats(4), [float(np.float32(part)) for part in (0.2126, 0.7152, 0.0722, 0.0)])
        parts = builder.fmul(pixel, weights)
        bright = builder.fadd(builder.fadd(lane(builder, parts, 0), lane(builder, parts, 1)), lane(builder, parts, 2))
        over = builder.fsub(bright, builder.fmul(splat(builder, threshold), lane(builder, pixel, 3)))
        share = builder.fdiv(larger(builder, over, constant(0)), larger(builder, bright, constant(1e-30)))
        lit = builder.fmul(builder.fmul(pixel, share), colour)
        most = larger(builder, larger(builder, lane(builder, lit, 0), lane(builder, lit, 1)), lane(builder, lit, 2))
        lit = builder.shuffle_vector(lit, most, ir.Constant(_INTS, [0, 1, 2, 7]))
        total = builder.fadd(load(context, builder, signature.args[0], out, o), lit)
        store(context, builder, signature.args[0], out, o, total)
        return context.get_dummy_value()

    return types.void(out, types.intp, pixels, types.intp, types.float32, tint), codegen


@intrinsic
def lookup4(typing_context, out, o, pixels, i, scale, table, step, last, alpha):
    """Write what tables say for the colours of a pixel to ``out[o:o+4]``, times ``alpha``, which comes last.

    ``scale`` makes ``pixels[i:i+3]`` values of 0 to 1, which are cut to that. A table has ``last`` + 1 items, between
    which it is mixed; those of the three colours begin ``step`` items after each other.
    """

    def codegen(context, builder, signature, arguments):
        out, o, pixels, i, scale, table, step, last, alpha = arguments
        pixel = builder.fmul(load(context, builder, signature.args[2], pixels, i), splat(builder, scale))
        value = smaller(builder, larger(builder, pixel, constant(0)), constant(1))
        place = builder.fmul(value, splat(builder, builder.sitofp(last, _FLOAT)))
        low = builder.fptosi(place, _INTS)
        most = builder.sub(builder.trunc(last, ir.IntType(32)), ir.Constant(ir.IntType(32), 1))
        least = builder.insert_element(ir.Constant(_INTS, ir.Undefined), most, ir.Constant(ir.IntType(32), 0))
        least = builder.shuffle_vector(least, least, ir.Constant(_INTS, [0] * 4))
        low = builder.select(builder.icmp_signed("<", low, least), low, least)
        near = far = constant(1)
        for channel in range(3):
            lane_number = ir.Constant(ir.IntType(32), channel)
            start = builder.mul(step, ir.Constant(step.type, channel))
            item = builder.add(builder.sext(builder.extract_element(low, lane_number), step.type), start)
            pair = load(context, builder, signature.args[5], table, item, 2)
            first, second = (builder.extract_element(pair, ir.Constant(ir.IntType(32), n)) for n in (0, 1))
            near = builder.insert_element(near, first, lane_number)
            far = builder.insert_element(far, second, lane_number)
        share = builder.fsub(place, builder.sitofp(low, floats(4)))
        value = multiply_add(builder, share, builder.fsub(far, near), near)
        store(context, builder, signature.args[0], out, o, builder.fmul(value, splat(builder, alpha)))
        return context.get_dummy_value()

    index, part = types.intp, types.float32
    return types.void(out, index, pixels, index, part, table, index, index, part), codegen


@intrinsic
def bytes4(typing_context, out, o, source, i, threshold):
    """Store premultiplied float32 as four bytes, dithered by ``threshold``; no colour exceeds its alpha."""

    def codegen(context, builder, signature, arguments):
        out, o, source, i, threshold = arguments
        value = builder.fmul(load(context, builder, signature.args[2], source, i), constant(255))
        value = larger(builder, smaller(builder, value, constant(255)), constant(0))
        last = ir.Constant(ir.IntType(32), 3)
        noise = builder.insert_element(splat(builder, threshold), ir.Constant(_FLOAT, 0.5), last)
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

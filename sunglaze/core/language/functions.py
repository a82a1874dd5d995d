"""Functions that have no operation of their own: sine, exponential, logarithm, powers, angles; and whole-number helpers.

Polynomials in the language's own operations, in single precision, so that a loop vectorises and all targets give the same.
Ranges and coefficients: Moshier, Cephes library (sinf, cosf, expf, logf, atanf). All are total: no input gives NaN but NaN.
"""

from __future__ import annotations

import math

from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.vector import Num, absolute, clamp, divide, floor, maximum, minimum, select, to_float, to_int, value


def _horner(x: Value, *coefficients: float) -> Value:
    """A polynomial, its highest coefficient first."""
    total = value(coefficients[0])
    for c in coefficients[1:]:
        total = total * x + c
    return total


def exp(a: Num) -> Value:
    """e to the power a; held to what single precision holds (a from -87 to 88)."""
    x = clamp(a, -87.0, 88.0)
    n = floor(x * 1.44269504088896341 + 0.5)
    r = x - n * 0.693359375 - n * -2.12194440e-4
    tail = _horner(
        r, 1.9875691500e-4, 1.3981999507e-3, 8.3334519073e-3, 4.1665795894e-2, 1.6666665459e-1, 5.0000001201e-1
    )  # fmt: skip
    power = record("bits_float", record("shl", record("iadd", to_int(n), 127), 23))
    return (tail * r * r + r + 1.0) * power


def log(a: Num) -> Value:
    """The natural logarithm; of the smallest normal number (about -87.3) for what is not above it."""
    x = maximum(a, 1.17549435e-38)
    bits = record("float_bits", minimum(x, 3.0e38))
    exponent = to_float(record("isub", record("shr", bits, 23), 126))
    m = record("bits_float", record("ior", record("iand", bits, 0x007FFFFF), 0x3F000000))
    low = m < math.sqrt(0.5)
    e = select(low, exponent - 1.0, exponent)
    f = select(low, m + m, m) - 1.0
    z = f * f
    tail = _horner(
        f, 7.0376836292e-2, -1.1514610310e-1, 1.1676998740e-1, -1.2420140846e-1, 1.4249322787e-1, -1.6668057665e-1,
        2.0000714765e-1, -2.4999993993e-1, 3.3333331174e-1,
    )  # fmt: skip
    return f + (tail * f * z + e * -2.12194440e-4 - z * 0.5) + e * 0.693359375


def power(a: Num, b: Num) -> Value:
    """a to the power b for a above 0; 0 for other a, but 1 where b is 0."""
    b = value(b)
    zero = (b <= 0.0) & (b >= 0.0)
    return select(zero, 1.0, select(value(a) > 0.0, exp(b * log(a)), 0.0))


def inverse_root(a: Num, n: int) -> Value:
    """a to the power -1/n for a above 0, n 5 or 6: a first guess from the exponent's bits, made better by two steps.

    A third of what `power` takes; relative error below 1e-6. Held to a of at most 1e10.
    """
    x = minimum(value(a), 1e10)
    # Halves, since whole numbers that come from floats are held to 1e9.
    half = to_float(record("shr", record("float_bits", x), 1))
    first = to_int((1 + 1 / n) * (127 - 0.045) * 2**22 - half * (1 / n))
    y = record("bits_float", record("shl", first, 1))
    # A step is the binomial series of (1 - u)^(-1/n). The guess is within 3 %, so u is at most 0.18 at first, then 0.0004.
    for terms in (3, 1):
        square = y * y
        u = 1.0 - x * (square * square * (y if n == 5 else square))
        series = [1.0]
        for k in range(terms):
            series.append(series[-1] * (1 / n + k) / (k + 1))
        y = y * _horner(u, *reversed(series))
    return y


def _circle(a: Num, quarter: int) -> Value:
    """The sine of a (radians) plus `quarter` right angles; within 1e-6 for up to some thousand turns."""
    x = clamp(a, -1e5, 1e5)
    q = floor(x * (2 / math.pi) + 0.5)
    r = x - q * 1.5703125 - q * 4.837512969970703e-4 - q * 7.549789948768648e-8
    z = r * r
    sine = _horner(z, -1.9515295891e-4, 8.3321608736e-3, -1.6666654611e-1) * z * r + r
    cosine = _horner(z, 2.443315711809948e-5, -1.388731625493765e-3, 4.166664568298827e-2) * z * z - z * 0.5 + 1.0
    turn = record("iand", record("iadd", to_int(q), quarter), 3)
    odd = record("ieq", record("iand", turn, 1), 1)
    found = select(odd, cosine, sine)
    return select(record("ilt", turn, 2), found, -found)


def sin(a: Num) -> Value:
    """The sine of a (radians); within 1e-6 for up to some thousand turns."""
    return _circle(a, 0)


def cos(a: Num) -> Value:
    """The cosine of a (radians); within 1e-6 for up to some thousand turns."""
    return _circle(a, 1)


def tan(a: Num) -> Value:
    """0 where the cosine is 0."""
    return divide(sin(a), cos(a))


def atan2(y: Num, x: Num) -> Value:
    """The angle of (x, y) in radians, -pi to pi; 0 at the origin."""
    ay, ax = absolute(y), absolute(x)
    t = divide(minimum(ay, ax), maximum(ay, ax))
    large = t > math.tan(math.pi / 8)
    s = select(large, divide(t - 1.0, t + 1.0), t)
    z = s * s
    arc = _horner(z, 8.05374449538e-2, -1.38776856032e-1, 1.99777106478e-1, -3.33329491539e-1) * z * s + s
    arc = arc + select(large, math.pi / 4, 0.0)
    arc = select(ay > ax, math.pi / 2 - arc, arc)
    arc = select(value(x) < 0.0, math.pi - arc, arc)
    return select(value(y) < 0.0, -arc, arc)


def iadd(a: Value, b: Value | int) -> Value:
    """The sum of whole numbers, wrapped to 32 bits."""
    return record("iadd", a, b)


def imul(a: Value, b: Value | int) -> Value:
    """The product of whole numbers, wrapped to 32 bits."""
    return record("imul", a, b)


def xor(a: Value, b: Value | int) -> Value:
    """Exclusive or of the bits."""
    return record("ixor", a, b)


def shift_right(a: Value, bits: int) -> Value:
    """A whole number's bits moved down, zeros coming in above."""
    return record("shr", a, bits)


def pcg(a: Value) -> Value:
    """One whole number scrambled: the PCG hash of Jarzynski and Olano, "Hash Functions for GPU Rendering" (2020)."""
    state = iadd(imul(a, 747796405), _signed(2891336453))
    # Their shift by (state >> 28) + 4 places; shifts here take any distance.
    word = imul(xor(record("shr", state, iadd(shift_right(state, 28), 4)), state), 277803737)
    return xor(shift_right(word, 22), word)


def _signed(word: int) -> int:
    return word - 0x1_0000_0000 if word & 0x8000_0000 else word


def hashed(*numbers: Value | int) -> Value:
    """One scrambled whole number from several, each stirred in by `pcg`."""
    state: Value | int = 0
    for n in numbers:
        state = pcg(iadd(n, state) if isinstance(n, Value) else record("iadd", n, state))
    assert isinstance(state, Value)
    return state


def unit(bits: Value) -> Value:
    """A scrambled whole number as a number from 0 to below 1, of 24 bits, which single precision holds exactly."""
    return to_float(shift_right(bits, 8)) * (1.0 / 16777216.0)

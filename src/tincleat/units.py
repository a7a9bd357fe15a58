"""Read and print lengths and angles: mm, m, inch and feet-inches with fractions, arithmetic, spacing lists.

A length text may hold units (``12.7``, ``1/2in``, ``3'-6 1/2"``, ``0.45 m``), arithmetic (``2*70 + 1/2in``) and
parentheses.  A number without a unit takes the unit given by the caller.  Fractions are literals: ``1/2in`` is half
an inch, never one divided by two inches.
"""

import math
import re
from fractions import Fraction

from tincleat.errors import BadValue

MM = 1.0
INCH = 25.4
FOOT = 304.8
METRE = 1000.0
POUND = 0.45359237  # kg
LENGTH_UNITS = {"mm": MM, "cm": 10.0, "m": METRE, "in": INCH, '"': INCH, "″": INCH, "ft": FOOT, "'": FOOT, "′": FOOT}
PROJECT_UNITS = ("mm", "m", "in", "ft-in", "in-decimal")
MOST_LETTERS = 2000
MOST_SPACINGS = 500

_NUMBER = r"(?:\d+(?:\.\d*)?|\.\d+)"
_MIXED = rf"(?:\d+\s*[\s-]\s*\d+/\d+|\d+/\d+|{_NUMBER})"
_FEET_INCH = re.compile(rf"({_NUMBER})\s*(?:'|′|ft)\s*-?\s*({_MIXED})\s*(?:\"|″|in)")
_QUANTITY = re.compile(rf"({_MIXED})\s*(mm|cm|m|in|ft|\"|″|'|′)?(?![A-Za-z])")


def default_factor(unit: str) -> float:
    """Millimetres in the project unit ``unit`` (``mm``, ``m``, or ``in``, ``ft-in`` and ``in-decimal``, where plain numbers are inches)."""
    if unit not in PROJECT_UNITS:
        raise BadValue(f"unknown unit {unit!r}", right=f"one of {', '.join(PROJECT_UNITS)}")
    return {"mm": MM, "m": METRE}.get(unit, INCH)


def _mixed(text: str) -> float:
    if "/" not in text:
        return float(text)
    match = re.fullmatch(r"(?:(\d+)\s*[\s-]\s*)?(\d+)/(\d+)", text.strip())
    if not match:
        raise BadValue(f"cannot read {text!r} as a number", right="for example 1 1/2")
    if int(match[3]) == 0:
        raise BadValue(f"{text!r} divides by zero")
    return float(match[1] or 0) + int(match[2]) / int(match[3])


class _Reader:
    """Recursive descent over one length expression; values are in millimetres, plain numbers marked as such."""

    def __init__(self, text: str, factor: float) -> None:
        self.text, self.at, self.factor, self.depth = text, 0, factor, 0

    def fail(self) -> BadValue:
        rest = self.text[self.at :].strip()
        place = f"at {rest[:20]!r}" if rest else "at its end"
        return BadValue(f"cannot read {self.text.strip()[:60]!r} {place}", right="a length such as 12.7, 1/2in, 3'-6 1/2\" or 2*70+5")

    def skip(self) -> None:
        while self.at < len(self.text) and self.text[self.at].isspace():
            self.at += 1

    def peek(self) -> str:
        self.skip()
        return self.text[self.at] if self.at < len(self.text) else ""

    def sum(self) -> tuple[float, bool]:
        value, plain = self.product()
        while self.peek() in ("+", "-", "−"):
            sign = 1 if self.text[self.at] == "+" else -1
            self.at += 1
            more, more_plain = self.product()
            if plain != more_plain:  # a plain number beside a length counts in the default unit
                value, more, plain = (value * self.factor if plain else value), (more * self.factor if more_plain else more), False
            value += sign * more
        return value, plain

    def product(self) -> tuple[float, bool]:
        value, plain = self.factor_()
        while self.peek() in ("*", "×", "/"):
            times = self.text[self.at] != "/"
            self.at += 1
            more, more_plain = self.factor_()
            if times:
                if not plain and not more_plain:
                    raise BadValue(f"{self.text.strip()!r} multiplies two lengths", right="multiply a length by a plain number")
                value, plain = value * more, plain and more_plain
            else:
                if not more_plain:
                    raise BadValue(f"{self.text.strip()!r} divides by a length", right="divide a length by a plain number")
                if more == 0:
                    raise BadValue(f"{self.text.strip()!r} divides by zero")
                value /= more
        return value, plain

    def factor_(self) -> tuple[float, bool]:
        mark = self.peek()
        sign = 1
        while mark in ("-", "−", "+"):
            sign = sign if mark == "+" else -sign
            self.at += 1
            mark = self.peek()
        value, plain = self._value(mark)
        return sign * value, plain

    def _value(self, mark: str) -> tuple[float, bool]:
        if mark == "(":
            self.depth += 1
            if self.depth > 20:
                raise BadValue("too many parentheses")
            self.at += 1
            inner = self.sum()
            if self.peek() != ")":
                raise self.fail()
            self.at += 1
            return inner
        match = _FEET_INCH.match(self.text, self.at)
        if match:
            self.at = match.end()
            return float(match[1]) * FOOT + _mixed(match[2]) * INCH, False
        match = _QUANTITY.match(self.text, self.at)
        if not match:
            raise self.fail()
        self.at = match.end()
        unit = match[2]
        return (_mixed(match[1]) * LENGTH_UNITS[unit], False) if unit else (_mixed(match[1]), True)


def parse_length(text: str, unit: str = "mm") -> float:
    """Millimetres of a length expression; plain numbers are in ``unit``.

    >>> parse_length("1/2in"), parse_length("2*70+5"), parse_length("3'-6 1/2\\"")
    (12.7, 145.0, 1079.5)

    Raises :class:`BadValue` when the text is not a length, divides by zero or is absurdly long.
    """
    if len(text) > MOST_LETTERS:
        raise BadValue("the text is too long to be a length")
    factor = default_factor(unit)
    reader = _Reader(text, factor)
    value, plain = reader.sum()
    if reader.peek():
        raise reader.fail()
    value = value * factor if plain else value
    if not math.isfinite(value):
        raise BadValue(f"{text.strip()[:60]!r} is not a finite length")
    return value


def parse_spacings(text: str, unit: str = "mm") -> tuple[float, ...]:
    """Millimetres of a spacing list such as ``3@70``, ``60 70 70 60`` or ``2@3in, 1 1/2in``.

    ``n@x`` repeats x n times.  Items are parted by commas or semicolons, else by spaces (a lone fraction after a
    whole number belongs to it: ``3 1/2 3`` is 3.5 and 3).  An empty text or ``0`` is the empty list.
    """
    if len(text) > MOST_LETTERS:
        raise BadValue("the text is too long to be a spacing list")
    text = re.sub(r"\s*[@×]\s*", "@", text.strip())
    if re.search(r"[,;]", text):
        items = [item.strip() for item in re.split(r"[,;]", text) if item.strip()]
    else:
        text = re.sub(r"\s+(mm|cm|m|in|ft)\b", r"\1", text)
        items = []
        for word in text.split():
            if items and re.match(r"\d+/\d+", word) and re.fullmatch(r"(\d+@)?(\d+'-?)?\d+'?", items[-1]):
                items[-1] += " " + word
            elif items and items[-1].endswith("'") and re.fullmatch(r"[\d./]+(\"|″|in)", word):
                items[-1] += word
            else:
                items.append(word)
    out: list[float] = []
    for item in items:
        count_text, mark, value_text = item.rpartition("@")
        if mark and not re.fullmatch(r"\d{1,4}", count_text.strip()):
            raise BadValue(f"cannot read {item!r}", right="a count before the @, such as 3@70")
        count = int(count_text) if mark else 1
        if len(out) + count > MOST_SPACINGS:
            raise BadValue(f"more than {MOST_SPACINGS} spacings", right="a shorter list")
        out.extend([parse_length(value_text, unit)] * count)
    if out == [0.0]:
        return ()
    return tuple(out)


def _trim(value: float, decimals: int) -> str:
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text


TELLING = 0.05  # mm that are told of a length that is none to the sixteenth


def _inches(value: float, mark: str) -> str:
    """Inches to the nearest 1/16 when that is within 0.1 mm, else decimal."""
    sixteenths = round(value / INCH * 16)
    if abs(sixteenths / 16 * INCH - value) > 0.1:
        return _trim(value / INCH, 3) + mark
    if not sixteenths and abs(value) >= TELLING:  # a tenth of a millimetre is not nothing
        return _trim(value / INCH, 4) + mark
    sign, sixteenths = ("-" if sixteenths < 0 else ""), abs(sixteenths)
    whole, rest = divmod(sixteenths, 16)
    if not rest:
        return f"{sign}{whole}{mark}"
    part = Fraction(rest, 16)
    head = f"{whole} " if whole else ""
    return f"{sign}{head}{part.numerator}/{part.denominator}{mark}"


def format_length(value: float, unit: str = "mm", mark: bool = False) -> str:
    """The length ``value`` (mm) in the project unit; ``mark`` adds the unit for mm and m.

    >>> format_length(12.7, "in"), format_length(1079.5, "ft-in"), format_length(70.0)
    ('1/2"', '3\\'-6 1/2"', '70')
    >>> format_length(12.7, "in-decimal")
    '0.5"'
    """
    default_factor(unit)
    if unit == "mm":
        return _trim(value, 1 if abs(value) >= 1000 else 2) + (" mm" if mark else "")
    if unit == "m":
        return _trim(value / METRE, 4) + (" m" if mark else "")
    if unit == "in-decimal":
        return _trim(value / INCH, 4) + '"'
    if unit == "in" or abs(value) < FOOT:
        return _inches(value, '"')
    feet, rest = divmod(round(abs(value) / INCH * 16), 12 * 16)
    if abs((feet * 192 + rest) / 16 * INCH - abs(value)) > 0.1:  # no sixteenth: decimals, so that nothing is lost on typing it back
        whole, over = divmod(abs(value), FOOT)
        return f"{'-' if value < 0 else ''}{int(whole)}'-{_trim(over / INCH, 3)}\""
    return f"{'-' if value < 0 else ''}{feet}'-{_inches(rest / 16 * INCH, chr(34))}"


def is_inch(unit: str) -> bool:
    """Whether a project unit is one of inches, with pounds for masses."""
    return unit in ("in", "ft-in", "in-decimal")


def mass_unit(unit: str) -> str:
    """The unit that masses are shown in beside lengths in ``unit``: kg or lb."""
    return "lb" if is_inch(unit) else "kg"


def in_mass_unit(kg: float, unit: str) -> float:
    """A mass (kg) in the unit that goes with lengths in ``unit``."""
    return kg / POUND if is_inch(unit) else kg


def format_mass(kg: float, unit: str = "mm", digits: int = 1) -> str:
    """A mass (kg) with its unit, in lb beside inches.

    >>> format_mass(10.0), format_mass(10.0, "ft-in")
    ('10.0 kg', '22.0 lb')
    """
    return f"{in_mass_unit(kg, unit):,.{digits}f} {mass_unit(unit)}"


FORCE_UNITS = {"n": 1.0, "kn": 1e3, "mn": 1e6, "lb": 4.4482216152605, "lbf": 4.4482216152605, "kip": 4448.2216152605, "kips": 4448.2216152605, "k": 4448.2216152605}
_FORCE = re.compile(r"\s*(-?\d[\d,]*(?:\.\d*)?|-?\.\d+)\s*([A-Za-z]*)\s*")


def parse_force(text: str, unit: str = "mm") -> float:
    """Newtons of a typed force; plain numbers are kN, or kips beside inches.  1 kip = 1,000 lbf = 4,448.22 N (NIST SP 811, B.8).

    >>> parse_force("450"), parse_force("12.5 kip", "ft-in") == parse_force("12500 lb")
    (450000.0, True)

    Raises :class:`BadValue` when the text is no force.
    """
    found = _FORCE.fullmatch(text) if len(text) <= 60 else None
    if found is None or (found[2] and found[2].lower() not in FORCE_UNITS):
        raise BadValue(f"cannot read {text.strip()[:40]!r}", right="a force such as 450, 450 kN or 100 kip")
    return float(found[1].replace(",", "")) * FORCE_UNITS[found[2].lower() or ("kip" if is_inch(unit) else "kn")]


def format_force(newtons: float, unit: str = "mm", mark: bool = False) -> str:
    """A force (N) in kN, or in kips beside inches; ``mark`` adds the unit.

    >>> format_force(450000.0, mark=True), format_force(444822.16, "in", True)
    ('450 kN', '100 kip')
    """
    inch = is_inch(unit)
    return _trim(newtons / FORCE_UNITS["kip" if inch else "kn"], 2) + ((" kip" if inch else " kN") if mark else "")


def format_volume(value: float, unit: str = "mm") -> str:
    """A small volume (mm³) with its unit, in in³ beside inches.

    >>> format_volume(628.73), format_volume(628.73, "ft-in")
    ('629 mm³', '0.038 in³')
    """
    return f"{value / INCH**3:.2g} in³" if is_inch(unit) else f"{value:,.0f} mm³"


def format_plate(thickness: float, width: float, length: float, unit: str = "mm") -> str:
    """A plate by its sizes (mm): ``PL 10 x 90 x 220``, or ``PL 3/4 x 16 x 1'-4"`` in inches.

    >>> format_plate(19.05, 406.4, 406.4, "ft-in")
    'PL 3/4 x 16 x 1\\'-4"'
    """
    if unit == "in-decimal":
        return "PL " + " x ".join(_trim(v / INCH, 4) for v in (thickness, width)) + f" x {format_length(length, unit)}"
    if is_inch(unit):
        return f"PL {_inches(thickness, '')} x {_inches(width, '')} x {format_length(length, unit)}"
    return f"PL {thickness:g} x {width:.1f} x {length:.1f}".replace(".0 ", " ").removesuffix(".0")


def format_spacings(values: tuple[float, ...], unit: str = "mm") -> str:
    """A spacing list in its shortest text: ``(70, 70, 70)`` is ``3@70``; parted by commas where inches need it."""
    runs: list[list[object]] = []
    for value in values:
        text = format_length(value, unit)
        if runs and runs[-1][1] == text:
            runs[-1][0] = int(str(runs[-1][0])) + 1
        else:
            runs.append([1, text])
    words = [f"{count}@{text}" if count != 1 else str(text) for count, text in runs]
    return (", " if is_inch(unit) else " ").join(words) or "0"


def format_other(value: float, unit: str = "mm") -> str:
    """A length (mm) in the other system than ``unit``'s, in brackets: to a sixteenth of an inch, or to half a millimetre.

    >>> format_other(80.0), format_other(406.4, "ft-in")
    ('[3 1/8"]', '[406.5]')
    """
    if is_inch(unit):
        return f"[{_trim(round(value * 2) / 2, 1)}]"
    return f"[{format_length(round(value / INCH * 16) / 16 * INCH, 'ft-in')}]"


def format_level(value: float, unit: str = "mm") -> str:
    """An elevation with its sign: metres with three decimals in metric projects, feet-inches otherwise."""
    if unit in ("mm", "m"):
        return f"{value / METRE:+.3f}"
    text = format_length(abs(value), "ft-in")
    return ("-" if value < 0 else "+") + text

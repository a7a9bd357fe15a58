"""Lengths and spacing lists by value, and as properties."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tincleat.errors import BadValue
from tincleat.units import format_force, format_length, format_level, format_spacings, parse_force, parse_length, parse_spacings


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("12.7", "mm", 12.7),
        ("1/2in", "mm", 12.7),
        ('1/2"', "m", 12.7),
        ("1 1/2 in", "mm", 38.1),
        ("1-1/2in", "mm", 38.1),
        ("3'-6 1/2\"", "mm", 3 * 304.8 + 6.5 * 25.4),
        ("3' 6\"", "mm", 1066.8),
        ("3ft", "mm", 914.4),
        ("0.45 m", "mm", 450.0),
        ("45cm", "mm", 450.0),
        ("3", "in", 76.2),
        ("3 1/2", "ft-in", 88.9),
        ("2", "m", 2000.0),
        ("2*70+5", "mm", 145.0),
        ("2*(70+5)/3", "mm", 50.0),
        ("1in + 10", "mm", 35.4),
        ("10 + 1in", "in", 279.4),
        ("-(5+5)", "mm", -10.0),
        ("6/4", "mm", 1.5),
    ],
)
def test_parse_length(text: str, unit: str, mm: float) -> None:
    assert parse_length(text, unit) == pytest.approx(mm)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "abc",
        "12 furlongs",
        "1/0",
        "2in*3in",
        "3/0in",
        "1..2",
        "(1",
        "1)",
        "12/(1-1)",
        "5/2in*1in",
        "9" * 3000,
        "(" * 50 + "1" + ")" * 50,
        "1e400",
        "nan",
        "0x10",
    ],
)
def test_bad_lengths_are_refused(text: str) -> None:
    with pytest.raises(BadValue):
        parse_length(text)


@pytest.mark.parametrize(
    ("text", "unit", "values"),
    [
        ("3@70", "mm", (70, 70, 70)),
        ("60 70 70 60", "mm", (60, 70, 70, 60)),
        ("2@3in, 1 1/2in", "mm", (76.2, 76.2, 38.1)),
        ("3 1/2 3", "in", (88.9, 76.2)),
        ("2 @ 70; 5", "mm", (70, 70, 5)),
        ("70 mm 2 in", "mm", (70, 50.8)),
        ("1' 6\"", "mm", (457.2,)),
        ("15' 15'", "ft-in", (4572, 4572)),
        ("1'-6 1/2\" 2'", "ft-in", (469.9, 609.6)),
        ("0", "mm", ()),
        ("", "mm", ()),
    ],
)
def test_parse_spacings(text: str, unit: str, values: tuple[float, ...]) -> None:
    assert parse_spacings(text, unit) == pytest.approx(values)


@pytest.mark.parametrize("text", ["x@70", "99999@70", "9999@1 9999@1", "3@", "-1@70", "1.5@70"])
def test_bad_spacings_are_refused(text: str) -> None:
    with pytest.raises(BadValue):
        parse_spacings(text)


def test_format() -> None:
    assert format_length(12.7, "in") == '1/2"'
    assert format_length(305.0, "ft-in") == "1'-0.008\""  # no sixteenth is near
    assert format_length(1079.5, "ft-in") == "3'-6 1/2\""
    assert format_length(70.0) == "70"
    assert format_length(-0.001) == "0"
    assert format_length(2500.0, "m") == "2.5"
    assert format_length(-38.1, "in") == '-1 1/2"'
    assert format_length(69.85, "in") == '2 3/4"'
    assert format_length(71.0, "in") == '2.795"'
    assert format_spacings((70.0, 70.0, 70.0, 60.0)) == "3@70 60"
    assert format_spacings((76.2, 76.2), "in") == '2@3"'
    assert format_spacings(()) == "0"
    assert format_level(4200.0) == "+4.200"


@given(st.floats(-1e5, 1e5).map(lambda v: round(v, 1)))
def test_what_is_printed_reads_back_mm(value: float) -> None:
    assert parse_length(format_length(value)) == pytest.approx(value, abs=0.06)


@given(st.integers(-20000, 20000))
def test_what_is_printed_reads_back_feet(sixteenths: int) -> None:
    value = sixteenths / 16 * 25.4
    text = format_length(value, "ft-in")
    sign = -1 if text.startswith("-") else 1
    assert sign * parse_length(text.lstrip("-"), "in") == pytest.approx(value)


@given(st.lists(st.integers(1, 5000).map(float), max_size=12))
def test_spacing_lists_read_back(values: list[float]) -> None:
    assert parse_spacings(format_spacings(tuple(values))) == tuple(values)


@pytest.mark.parametrize(
    ("text", "unit", "newtons"),
    [("450", "mm", 450e3), ("450 kN", "in", 450e3), ("0.5MN", "mm", 5e5), ("1,250", "mm", 1.25e6), ("100", "ft-in", 100 * 4448.2216), ("100 kip", "mm", 444822.16), ("800 lb", "mm", 800 * 4.4482216), ("-12", "mm", -12e3), ("900 N", "in", 900.0)],
)
def test_forces(text: str, unit: str, newtons: float) -> None:
    assert parse_force(text, unit) == pytest.approx(newtons, rel=1e-7)
    assert parse_force(format_force(newtons, unit, mark=True), unit) == pytest.approx(newtons, abs=6.0 if unit == "mm" else 25.0)


@pytest.mark.parametrize("text", ["", "kN", "12 kg", "1e5", "12,5 5", "--3", "9" * 400 + " tons"])
def test_bad_forces(text: str) -> None:
    with pytest.raises(BadValue, match="a force such as"):
        parse_force(text)


def test_a_tenth_of_a_millimetre_is_told_in_inches() -> None:
    """0.1 / 25.4 = 0.0039; what is nothing stays nothing."""
    assert format_length(0.1, "ft-in") == '0.0039"' and format_length(0.0, "ft-in") == '0"' and parse_length(format_length(0.1, "in"), "in") == pytest.approx(0.1, abs=1e-3)

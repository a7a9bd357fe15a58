"""A small writer of STEP physical files (ISO 10303-21): entities as lines of text, equal ones shared."""

import uuid
from collections.abc import Iterable

_DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$"
SPACE = uuid.UUID("5d7c1f5e-6f4a-4f0b-9a70-0c6f0a8a2b11")


class Ref(str):
    """A reference such as ``#12``."""

    __slots__ = ()


class Enum(str):
    """An enumeration value, written between dots."""

    __slots__ = ()


class Typed(str):
    """Text that is already in the file's syntax."""

    __slots__ = ()


DERIVED = Typed("*")


def real(value: float) -> str:
    """A number as the syntax wants it: always with a point, nine significant decimals of a millimetre at most."""
    text = f"{value:.6f}".rstrip("0")
    return "0." if text in ("-0.", "0.") else text


def text(value: str) -> str:
    """A quoted text; anything outside ASCII as \\X2\\ escapes (ISO 10303-21 6.4.3)."""
    out = []
    for letter in value:
        if letter in "'\\":
            out.append(letter * 2)
        elif 32 <= ord(letter) < 127:
            out.append(letter)
        else:
            code = letter.encode("utf-16-be").hex().upper()
            out.append(f"\\X2\\{code}\\X0\\" if len(code) == 4 else f"\\X4\\{ord(letter):08X}\\X0\\")
    return "'" + "".join(out) + "'"


def show(value: object) -> str:
    """Any attribute in the file's syntax."""
    if isinstance(value, Ref | Typed):
        return str(value)
    if isinstance(value, Enum):
        return f".{value}."
    if isinstance(value, str):
        return text(value)
    if isinstance(value, bool):
        return ".T." if value else ".F."
    if isinstance(value, int):
        return str(value)
    if isinstance(value, float):
        return real(value)
    if value is None:
        return "$"
    if isinstance(value, Iterable):
        return "(" + ",".join([show(v) for v in value]) + ")"
    return real(float(value))  # type: ignore[arg-type]


def global_id(*names: str) -> str:
    """A 22-letter global id that is the same every time for the same names."""
    number = uuid.uuid5(SPACE, "/".join(names)).int
    letters = []
    for _ in range(22):
        number, rest = divmod(number, 64)
        letters.append(_DIGITS[rest])
    return "".join(reversed(letters))


class Spf:
    """Lines of a STEP file in the making."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self._shared: dict[str, Ref] = {}

    def add(self, kind: str, *values: object) -> Ref:
        """A new entity; its reference."""
        self.lines.append(f"#{len(self.lines) + 1}={kind}({','.join([show(v) for v in values])});")
        return Ref(f"#{len(self.lines)}")

    def share(self, kind: str, *values: object) -> Ref:
        """An entity that is written once for equal values."""
        body = f"{kind}({','.join([show(v) for v in values])})"
        found = self._shared.get(body)
        if found is None:
            self.lines.append(f"#{len(self.lines) + 1}={body};")
            found = self._shared[body] = Ref(f"#{len(self.lines)}")
        return found

    def document(self, schema: str, name: str, stamp: str, program: str) -> str:
        """The whole file as text."""
        head = (
            "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('ViewDefinition [ReferenceView_V1.2]'),'2;1');\n"
            f"FILE_NAME({text(name)},{text(stamp)},(''),(''),{text(program)},{text(program)},'');\n"
            f"FILE_SCHEMA(({text(schema)}));\nENDSEC;\nDATA;\n"
        )
        return head + "\n".join(self.lines) + "\nENDSEC;\nEND-ISO-10303-21;\n"

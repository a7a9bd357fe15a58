"""Which steel grade a name from outside means, what other materials are, and the grade a section is ordinarily rolled in."""

import re
from functools import lru_cache

from tincleat.catalogue.fasteners import grade_names
from tincleat.catalogue.sections import Section

UNKNOWN = "unknown"  # the grade of a member whose grade nobody told
# names as they are written, and the grade they mean; old names stand for what took their place (EN 10027-1 and the tables of EN 10025)
_FORMS: tuple[tuple[str, str], ...] = (
    (r"S[ -]?(235|275|355|420|450|460)(?![0-9])", r"S\1"),
    (r"ST[ -]?37(?![0-9])", "S235"),
    (r"ST[ -]?44(?![0-9])", "S275"),
    (r"ST[ -]?52(?![0-9])", "S355"),
    (r"FE[ -]?360(?![0-9])", "S235"),
    (r"FE[ -]?430(?![0-9])", "S275"),
    (r"FE[ -]?510(?![0-9])", "S355"),
    (r"FE[ -]?410(?![0-9])", "E250"),
    (r"A[ -]?992M?(?![0-9])", "A992"),
    (r"A[ -]?36M?(?![0-9])", "A36"),
    (r"A[ -]?572M?[ ,./-]*(?:GR(?:ADE)?)?[ ,./-]*(?:50|345)", "A572-50"),
    (r"A[ -]?500M?[ ,./-]*(?:GR(?:ADE)?)?[ ,./-]*(B|C)(?![A-Z])", r"A500-\1"),
    (r"A[ -]?53M?(?:[ ,./-]*(?:TYPE|TY)?[ ,./-]*[ES])?[ ,./-]*(?:GR(?:ADE)?)?[ ,./-]*B?(?![0-9A-Z])", "A53-B"),
    (r"A[ -]?529M?[ ,./-]*(?:GR(?:ADE)?)?[ ,./-]*50", "A529-50"),
    (r"A[ -]?588M?(?![0-9])", "A588"),
    (r"A[ -]?913M?[ ,./-]*(?:GR(?:ADE)?)?[ ,./-]*65", "A913-65"),
    (r"A[ -]?1085M?(?![0-9])", "A1085"),
    (r"E[ -]?(250|300|350)(?![0-9])", r"E\1"),
    (r"Q[ -]?(235|345|355)(?![0-9])", r"Q\1"),
    (r"(300|350)[ -]?WT?(?![A-Z0-9])", r"\1W"),
    (r"SS[ -]?400(?![0-9])", "SS400"),
    (r"SM[ -]?490(?![0-9])", "SM490"),
)
_GRADES = tuple((re.compile(rf"(?<![A-Z0-9.]){form}"), into) for form, into in _FORMS)
_OTHERS: tuple[tuple[str, str], ...] = (
    ("timber", r"timber|wood|glulam|\bgl\d{2}[hc]?\b|\blvl\b|\bclt\b|holz|\bbois\b|legno|madera|spruce|\bpine\b|larch|\boak\b|douglas|\bc(?:14|16|18|20|22|24|27|30|35|40)\b(?!/)|\bd(?:30|40)\b"),
    ("concrete", r"concrete|b[eé]ton\b|hormig|calcestruzzo|\bc\d{2}/\d{2,3}\b|\brc\b|precast|grout|\bm(?:20|25|30|35|40)\b concrete"),
    ("aluminium", r"alumini?um|\balu\b|en[ -]aw|\b60(?:05|60|61|63|82)[ -]?(?:a[ -]?)?t\d"),
    ("masonry", r"masonry|brick|\bblock(?:work)?\b|mauerwerk"),
    ("plastic", r"plastic|\bgfrp\b|\bgrp\b|\bfrp\b|\bpvc\b"),
    ("glass", r"\bglass\b|\bglas\b"),
)  # fmt: skip


@lru_cache(maxsize=4096)
def grade_of(text: str) -> str | None:
    """The grade a text names, wherever it stands in it: ``St37-2`` is S235, ``ASTM A572 Gr.50`` A572-50; None if it names none."""
    upper = text.upper().replace("_", " ")
    for form, into in _GRADES:
        found = form.search(upper)
        if found:
            grade = found.expand(into)
            if grade in grade_names("grades"):
                return grade
    return None


@lru_cache(maxsize=4096)
def material_of(text: str) -> str:
    """``steel``, another material a text names, or an empty text if it tells nothing."""
    if grade_of(text):
        return "steel"
    low = text.lower().replace("_", " ")
    for name, words in _OTHERS:
        if re.search(words, low):
            return name
    return "steel" if re.search(r"steel|stahl|acier|acero|acciaio|\bst\b|metal", low) else ""


def usual_grade(shape: Section) -> str:
    """The grade a section is ordinarily rolled in, by its standard: A992 for wide flanges and tees, A500-C for hollow sections, A53-B for pipes, A36 for angles and channels; E250 to IS 808, else S355; of timber C24, or DF-L where it is sized in inches."""
    if shape.timber:
        return "C24" if " " in shape.name else "DF-L"
    if shape.standard.startswith("IS "):
        return "E250"
    if not shape.standard.startswith("ASTM"):
        return "S355"
    if shape.shape in ("RHS", "CHS"):
        return "A53-B" if shape.name.upper().startswith("PIPE") else "A500-C"
    return "A36" if shape.shape in ("L", "C") else "A992"

"""Office standards: house rules kept under a name beside the window's settings, for projects to start from."""

from pathlib import Path

from PySide6.QtCore import QSettings

from tincleat.commands.house import with_values
from tincleat.errors import BadValue, TinCleatError
from tincleat.exchange.standard_file import read_standard, write_standard
from tincleat.project.entities import HouseRules, inch_house

EN_MM, US_INCH = "EN, millimetres", "AISC, feet and inches"


def folder(settings: QSettings) -> Path:
    """Where office standards are kept."""
    return Path(settings.fileName()).parent / "standards"


def names(settings: QSettings) -> list[str]:
    """The names of all kept standards, those of the program first."""
    return [EN_MM, US_INCH, *sorted(p.stem for p in folder(settings).glob("*.json"))]


def keep(settings: QSettings, name: str, house: HouseRules) -> Path:
    """Keep house rules as the office standard of a name, in place of one that has it; where it is kept.  Raises BadValue and BadFile."""
    name = name.strip()
    if not name or len(name) > 60 or not name.isprintable() or any(c in name for c in "/\\:*?\"<>|") or name.startswith(".") or name in (EN_MM, US_INCH):
        raise BadValue(f"{name!r:.70} is no name for a standard", "office standard", "at most 60 letters, figures and spaces, and not one of the program's own")
    folder(settings).mkdir(parents=True, exist_ok=True)
    path = folder(settings) / f"{name}.json"
    write_standard(house, name, path)
    return path


def drop(settings: QSettings, name: str) -> None:
    """Take a kept standard out."""
    (folder(settings) / f"{name}.json").unlink(missing_ok=True)


def rules_of(settings: QSettings, name: str, house: HouseRules) -> HouseRules:
    """The house rules of a standard, with the title and north of others.  Raises BadFile, and BadValue with what of it cannot be taken."""
    if name in (EN_MM, US_INCH):
        plain = inch_house(house.title) if name == US_INCH else HouseRules(title=house.title)
        return with_values(plain, {"north_deg": house.north_deg})
    found = read_standard(folder(settings) / f"{name}.json")
    if found.left and not found.values:
        raise BadValue("nothing of it can be taken: " + "; ".join(found.left[:3]), name)
    return with_values(house, found.values)


def started(settings: QSettings, name: str, title: str) -> HouseRules:
    """House rules of a new project that starts from a standard; raises what :func:`rules_of` raises."""
    try:
        return rules_of(settings, name, HouseRules(title=title))
    except TinCleatError as error:
        raise error.at(f"office standard {name}") from None

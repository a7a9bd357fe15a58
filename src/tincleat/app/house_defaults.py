"""After units or the rule set change: the house defaults that go with them, looked through row by row."""


import msgspec

from tincleat.app.context import Host
from tincleat.app.review import Matter, Row
from tincleat.project.defaults import along


def offer_defaults(w: Host) -> None:
    """List the defaults that do not go with the project's units and rule set; taking rows is one command more, leaving them changes nothing."""
    if w.desk is None:
        return
    house = w.desk.project.house
    found = along(house)
    if not found:
        return
    rows = [
        Row(a.field, a.label, "", "", (f"left: {a.words(house.units)}; the office's own" if a.own else a.words(house.units)), can=not a.own) for a in found
    ]
    new = {a.field: msgspec.to_builtins(a.then) for a in found}

    def take(keys: list[str]) -> bool:
        return w.run("set-house-rules", values={k: new[k] for k in keys})

    w.looking.through(Matter(f"House defaults for {house.units}, {house.rule_set}", rows, take, "Bring along", members=False))

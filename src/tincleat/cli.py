"""The command line: the same commands without a window.  Exit 0 fine, 1 breaches found, 2 unusable input."""

import argparse
import contextlib
import gc
import json
import os
import sys
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NoReturn, TextIO

import msgspec

from tincleat import __version__
from tincleat.commands.desk import Desk
from tincleat.commands.house import with_values
from tincleat.commands.imports import ImportFrame, read
from tincleat.commands.ready import differences, revision
from tincleat.commands.registry import COMMANDS, describe
from tincleat.commands.typicals import found as found_typical
from tincleat.demo.registry import DEMOS, make_demo
from tincleat.errors import BadFile, TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.ifc_source import Imported
from tincleat.exchange.library import write_library
from tincleat.exchange.size_tables import write_sizes
from tincleat.exchange.standard_file import read_standard, write_standard
from tincleat.exchange.tables import export_bill, export_ledger
from tincleat.families.declare import Setting, show
from tincleat.families.own import load as load_own
from tincleat.families.registry import FAMILIES
from tincleat.files import read_whole, reason, target_of
from tincleat.ledger.effect import effect, in_words
from tincleat.ledger.look import standing, want_look
from tincleat.ledger.query import members_like
from tincleat.ledger.through import told
from tincleat.project.entities import HouseRules, inch_house
from tincleat.project.house_sheet import RULES as RULES_OF_HOUSE
from tincleat.project.house_sheet import differing, standard
from tincleat.project.limits import shown
from tincleat.project.members import length
from tincleat.project.project import Project
from tincleat.ready.compare import Difference
from tincleat.ready.rules import RULES
from tincleat.ready.stock import over_stock
from tincleat.ready.true_up import plan
from tincleat.release.report import all_findings, counted, findings_of, info
from tincleat.standards.rulesets import RULE_SETS

MOST_SCRIPT = 64_000_000


def setting_row(setting: Setting, house: HouseRules) -> dict[str, Any]:
    """A setting's declaration as ``families --json`` prints it; lengths in mm, angles in rad."""
    unit = {"length": "mm", "spacings": "mm", "points": "mm", "angle": "rad", "force": "N"}.get(setting.kind, "")
    default, inch = setting.standard(house), setting.standard(inch_house(""))
    row: dict[str, Any] = {"name": setting.name, "label": setting.label, "kind": setting.kind, "group": setting.group, "unit": unit, "help": setting.help,
                           "default": default, "default_inch": inch, "worked_out": default is None}  # fmt: skip
    if setting.kind in ("length", "count", "angle", "spacings", "numbers", "points", "force"):
        row |= {"least": setting.low, "greatest": setting.high}
    if setting.each:
        row["each"] = setting.each.lower()
    if setting.choices:
        row["choices"] = list(setting.choices)
    if default is not None:
        row["shown"] = show(setting, default, house.units)
    return row


def _print(value: Any, as_json: bool) -> None:
    if as_json:
        _tell(json.dumps(value, indent=1))
        return
    rows = value if isinstance(value, list) else [value]
    for row in rows:
        for key, item in row.items():
            _tell(f"{key + ':':<14}{', '.join(f'{k} {v}' for k, v in item.items()) if isinstance(item, dict) else item}")
        if len(rows) > 1:
            _tell("")


def _opened(args: argparse.Namespace) -> Desk:
    """The project of a command; what is not as it should be in it goes to the error stream.  It is closed when the command ends."""
    desk = Desk.open(args.file)
    args.open.append(desk)
    for words in desk.faults():
        _tell(f"tincleat: note: {words}", sys.stderr)
    return desk


def _new(args: argparse.Namespace) -> int:
    if args.demo:
        desk = make_demo(args.demo, args.file, overwrite=args.force)
    else:
        title = args.title or Path(args.file).stem
        house = inch_house(title) if args.inch else HouseRules(title=title)
        if args.house:
            found = read_standard(args.house)
            house = with_values(house, found.values)
            for words in found.left:
                _tell(f"tincleat: note: left out of {args.house}: {words}", sys.stderr)
        desk = Desk.create(args.file, house, args.force)
    _tell(f"{args.file}: {len(desk.project.members)} members, {len(desk.project.connections)} connections")
    desk.close()
    return 0


def _house(args: argparse.Namespace) -> int:
    desk = _opened(args)
    house = desk.project.house
    if args.attempt:
        values = dict(_pair(text) for text in args.attempt)
        found = effect(desk.ledger, with_values(house, values))
        for line in in_words(found, lambda key: desk.ledger.entries[key].joint.words, house.units):
            _tell(line)
        return 0
    if args.write:
        write_standard(house, args.name or Path(args.write).stem, args.write)
        _tell(args.write)
        return 0
    usual = standard(house)
    differ = {r.name for r in differing(house, usual)}
    rows = [{"name": r.name, "label": r.label, "group": r.group, "value": msgspec.to_builtins(r.value(house)), "shown": r.shown(house), "standard": r.shown(usual), "differs": r.name in differ, "help": r.help} for r in RULES_OF_HOUSE]
    if args.json:
        _print(rows, True)
        return 0
    for row in rows:
        _tell(f"{row['name']:<32}{row['shown']}" + (f"   (standard {row['standard']})" if row["differs"] else ""))
    _tell(f"{len(differ)} of {len(rows)} are not the standard's")
    return 0


def _pair(text: str) -> tuple[str, str]:
    name, mark, value = text.partition("=")
    if not mark:
        raise TinCleatError(f"{text!r:.60} names no value", "--try", "NAME=VALUE such as 'rounding/base plate=20 up'")
    return name.strip(), value.strip()


def _info(args: argparse.Namespace) -> int:
    _print(info(_opened(args).ledger), args.json)
    return 0


def _proof(args: argparse.Namespace) -> int:
    desk = _opened(args)
    if args.rules and args.rules != desk.project.house.rule_set:
        # proved under another rule set in memory only: the file stays as it is

        desk.project.apply(desk.project.put(msgspec.structs.replace(desk.project.house, rule_set=args.rules)))
        desk.ledger.rebuild()
    if args.json:
        rows = all_findings(desk.ledger)
        # hundreds of thousands of rows; all but plain letters are escapes in it, so that nothing steers a terminal
        sys.stdout.write(msgspec.json.format(json.dumps(rows).encode(), indent=1).decode() + "\n")
        return 1 if any(r["level"] == "breach" for r in rows) else 0
    levels: Counter[str] = Counter()
    ends = 0
    for entry, found in findings_of(desk.ledger):
        for f in found:
            if f.rule == "end-open":
                ends += 1
            else:
                levels[f.level] += 1
            if f.level in ("breach", "note") and (args.all or f.rule != "end-open"):
                unit = f" {f.unit}" if f.unit else ""
                whose = entry.connection.id if entry.connection else ""
                _tell(f"{f.level:<7}{whose:<7}{f.title}: {round(f.actual, 4):g}{unit}, required {f.sense} {round(f.required, 4):g}{unit} ({f.clause}); {f.part}")
    for _, f in told(desk.ledger):
        levels[f.level] += 1
        _tell(f"{f.level:<7}{'':<7}{f.title}: {f.message} at {', '.join(f'{v:.0f}' for v in f.where)} mm ({f.clause})")
    _tell(f"{', '.join(f'{n} {k}' for k, n in sorted(levels.items()))}; {ends} unjoined ends; rules {desk.project.house.rule_set}")
    return 1 if levels["breach"] else 0


def _export(args: argparse.Namespace) -> int:
    if not (args.ifc or args.bom or args.ledger or args.typicals or args.sizes):
        raise TinCleatError("nothing to export is named", "export", "--ifc OUT.ifc, --bom OUT.xlsx or OUT.csv, --ledger OUT.xlsx or OUT.csv, --typicals OUT.json, --sizes TYPICAL OUT.csv")
    desk = _opened(args)
    if args.ifc:
        _tell(str(export_ifc(desk.ledger, args.ifc)))
    if args.bom:
        for path in export_bill(desk.ledger, args.bom):
            _tell(str(path))
    if args.ledger:
        for path in export_ledger(desk.ledger, args.ledger):
            _tell(str(path))
    if args.typicals:
        count = write_library(desk.project.typicals.values(), args.typicals)
        _tell(f"{args.typicals}: {count} typicals")
    if args.sizes:
        name, path = args.sizes
        count = write_sizes(found_typical(desk.project, name), desk.project.house.units, path)
        _tell(f"{path}: {count} sizes")
    return 0


def _import(args: argparse.Namespace) -> int:
    meanings = {}
    for pair in args.mean or ():
        name, equals, meant = pair.partition("=")
        if not equals:
            raise TinCleatError(f"{pair!r} does not say what a profile means", "import --mean", "NAME=MEANING, such as HE200A=HEA200 or Steel=S355")
        meanings[name] = meant
    asked = ImportFrame(args.source, meanings, args.unit or "")
    found = read(Project(), asked)
    if args.output is not None:
        target_of(args.output, (Path(args.source),), projects=True)
        title = Path(args.source).stem
        Desk.create_whole(args.output, inch_house(title) if args.inch else HouseRules(title=title), args.force, lambda desk: _take(desk, args.source, found)).close()
    report = found.report()
    if args.json:
        _tell(json.dumps(report, indent=1))
        return 0
    _tell(f"{report['schema']}: {report['taken']} members taken, {report['as_reference']} bodies as reference, {report['left_out']} left out")
    for row in report["profiles"]:
        _tell(f"  {row['name']:<28} {row['section']:<20} by {row['by']}, sure to {row['confidence']:.0%}, {row['members']} members")
    for row in report["grades"]:
        _tell(f"  grade {row['name'][:60]:<28} {row['grade']:<12} by {row['by']}, {row['members']} members")
    if found.feet and not args.inch:
        _tell(f"  note: the file measures in {found.unit}; --inch makes a project in feet and inches with AISC rules of it")
    for words in report["notes"]:
        _tell(f"  note: {words}")
    for row in report["left"]:
        _tell(f"  left out: {row['kind']} {row['name'] or row['guid']}: {row['why']}")
    return 0


def _take(desk: Desk, source: str, found: Imported) -> None:
    desk.take_in(source, found)


def _true_up(args: argparse.Namespace) -> int:
    desk = _opened(args)
    rules = [r for r in (args.rules or "").split(",") if r]
    found = plan(desk.ledger, rules)
    if args.keep and found.changes:
        _tell(desk.run("true-up", rules=rules))
    rows: list[dict[str, Any]] = [
        {
            "rule": c.rule,
            "member": c.old.id,
            "name": c.old.name,
            "section": c.old.section,
            "what": c.words,
            "before": [c.old.start, c.old.end],
            "after": [c.new.start, c.new.end],
        }
        for c in found.changes
    ]
    left: list[dict[str, Any]] = [{"rule": x.rule, "member": x.member, "why": x.why} for x in found.left]
    if args.json:
        _tell(json.dumps({"checked": found.checked, "changes": rows, "left": left, "kept": bool(args.keep and rows)}, indent=1))
        return 0
    for row in rows:
        _tell(f"{row['rule']:<20}{row['name']:<10}{row['section']:<18}{row['what']}")
    for one in left:
        _tell(f"{one['rule']:<20}{one['member']:<10}left: {one['why']}")
    _tell(f"{len({c.old.id for c in found.changes})} of {found.checked} members {'trued up' if args.keep else 'would be trued up'}, {len(left)} left")
    return 0


def _stock(args: argparse.Namespace) -> int:
    desk = _opened(args)
    rows: list[dict[str, Any]] = [{"member": o.member.id, "name": o.member.name, "section": o.member.section, "length": round(length(o.member), 1), "stock": o.stock, "at": list(o.at),
             "pieces": [round(p, 1) for p in o.pieces]} for o in over_stock(desk.ledger)]  # fmt: skip
    if args.json:
        _tell(json.dumps(rows, indent=1))
    else:
        for r in rows:
            way = (
                "split at " + ", ".join(f"{a:.0f}" for a in r["at"]) + ", pieces " + ", ".join(f"{p:.0f}" for p in r["pieces"])
                if r["at"]
                else "no clear place to split"
            )
            _tell(f"{r['name']:<10}{r['section']:<18}{r['length']:>9.0f} of {r['stock']:.0f} mm: {way}")
        _tell(f"{len(rows)} members over stock length")
    return 0


def _difference(d: Difference) -> dict[str, Any]:
    return {"kind": d.kind, "key": d.key, "name": d.label, "what": d.words}


def _show_differences(rows: "list[Difference]", as_json: bool) -> int:
    if as_json:
        _tell(json.dumps([_difference(r) for r in rows], indent=1))
    else:
        for r in rows:
            _tell(f"{r.kind:<9}{r.key:<24}{r.label:<12}{r.words}")
        _tell(", ".join(f"{n} {k}" for k, n in counted(r.kind for r in rows).items()) or "no difference")
    return 0


def _compare(args: argparse.Namespace) -> int:
    return _show_differences(differences(_opened(args).project, args.first, args.second), args.json)


def _revise(args: argparse.Namespace) -> int:
    desk = _opened(args)
    rows = revision(desk.project, args.source, args.unit or "")
    if args.keep:
        before = standing(desk.ledger)
        _tell(desk.run("take-revision", path=args.source, unit=args.unit or ""))
        for look in want_look(before, desk.ledger):
            _tell(f"needs a look: {look.connection}: {look.why}")
        return 0
    return _show_differences(rows, args.json)


def _select(args: argparse.Namespace) -> int:
    desk = _opened(args)
    found = [desk.project.members[k] for k in members_like(desk.ledger, args.query)]
    if args.json:
        _tell(json.dumps([{"id": m.id, "name": m.name, "role": m.role, "section": m.section, "start": m.start, "end": m.end} for m in found], indent=1))
    else:
        for m in found:
            _tell(f"{m.id:<8}{m.name:<12}{m.role:<9}{m.section}")
        _tell(f"{len(found)} members")
    return 0


def _families(args: argparse.Namespace) -> int:
    house = HouseRules()
    rows: list[dict[str, Any]] = [
        {"name": f.name, "label": f.label, "words": list(f.words), "joints": list(f.kinds), "settings": [setting_row(s, house) for s in f.settings]}
        for f in FAMILIES.values()
    ]
    if args.json:
        _tell(json.dumps(rows, indent=1))
    else:
        for row in rows:
            _tell(f"{row['name']}: {row['label']} ({', '.join(row['joints'])})")
            for s in row["settings"]:
                _tell(f"  {s['name']:<20}{s['kind']:<10}{s.get('shown', 'worked out'):<18}{s['help']}")
    return 0


def _commands(args: argparse.Namespace) -> int:
    rows = [describe(c) for c in COMMANDS.values()]
    if args.json:
        _tell(json.dumps(rows, indent=1))
    else:
        for row in rows:
            _tell(f"{row['name']:<22}{row['about']}")
    return 0


def _script(path: str) -> bytes:
    """A script's bytes, from a file or, by the name ``-``, from standard input."""
    if path != "-":
        return read_whole(path, MOST_SCRIPT, "a text file of one JSON object a line, or - for standard input")
    data = sys.stdin.buffer.read(MOST_SCRIPT + 1)
    if len(data) > MOST_SCRIPT:
        raise BadFile("there is more on standard input than a script may hold", "-", f"at most {MOST_SCRIPT / 1e6:.0f} MB")
    return data


def _do(args: argparse.Namespace) -> int:
    try:
        text = _script(args.script).decode("utf-8")
    except UnicodeDecodeError as error:
        raise BadFile(f"this is no text: {error.reason} at byte {error.start}", args.script, "a text file of one JSON object a line, in UTF-8") from None
    desk = _opened(args)
    for title in desk.run_script(text):
        _tell(title)
    return 0


def _turn(args: argparse.Namespace) -> int:
    desk = _opened(args)
    title = desk.undo() if args.verb == "undo" else desk.redo()
    _tell(f"{args.verb}: {title}" if title else f"nothing to {args.verb}")
    return 0


def _bench(args: argparse.Namespace) -> int:
    from tincleat.bench import run  # the bench draws, so Qt and VTK are loaded for it alone

    return run(args.json, args.quick)


class _Parser(argparse.ArgumentParser):
    """A parser whose complaints do not pass on what steers a terminal."""

    def error(self, message: str) -> NoReturn:
        _tell(self.format_usage().rstrip(), sys.stderr)
        _tell(f"{self.prog}: error: {message}", sys.stderr)
        raise SystemExit(2)


def parser() -> argparse.ArgumentParser:
    """The argument parser of ``tincleat``."""
    top = _Parser(prog="tincleat", description="Steel connections placed, drawn and proved across a steel model.")
    top.add_argument("--version", action="version", version=f"Tin Cleat {__version__}")
    top.add_argument("--own-families", metavar="FOLDER", help="families of your own, a Python file each; their code is run")
    verbs = top.add_subparsers(dest="verb", required=True, metavar="COMMAND")

    def verb(name: str, run: Any, about: str, file: bool = True, as_json: bool = False) -> argparse.ArgumentParser:
        sub = verbs.add_parser(name, help=about, description=about)
        sub.set_defaults(run=run)
        if file:
            sub.add_argument("file", metavar="FILE", help="project file (.tincleat)")
        if as_json:
            sub.add_argument("--json", action="store_true", help="print JSON")
        return sub

    new = verb("new", _new, "make a new project")
    new.add_argument("--demo", choices=sorted(DEMOS), help="start from a demo project")
    new.add_argument("--title", help="the project's title")
    new.add_argument("--house", metavar="STANDARD.json", help="an office standard to start from")
    new.add_argument("--inch", action="store_true", help="feet and inches, AISC rules and defaults")
    new.add_argument("--force", action="store_true", help="replace the file if it exists")
    verb("info", _info, "count what is in a project", as_json=True)
    proof = verb("proof", _proof, "prove every connection; exit 1 if there are breaches", as_json=True)
    proof.add_argument("--rules", choices=sorted(RULE_SETS), help="prove under this rule set instead of the project's")
    proof.add_argument("--all", action="store_true", help="list unjoined ends too")
    export = verb("export", _export, "write IFC4, bills and typicals")
    export.add_argument("--ifc", metavar="OUT", help="IFC4 file")
    export.add_argument("--bom", metavar="OUT", help="bill of materials and bolt list, .xlsx or .csv")
    export.add_argument("--ledger", metavar="OUT.xlsx|csv", help="every joint with its state, connection and findings")
    export.add_argument("--typicals", metavar="OUT", help="the project's typicals, .json")
    export.add_argument("--sizes", nargs=2, metavar=("TYPICAL", "OUT"), help="the sizes of one typical as a table, .csv")
    bring = verb("import", _import, "make a project of an engineer's IFC model, with a report", file=False, as_json=True)
    bring.add_argument("source", metavar="IN.ifc")
    bring.add_argument("-o", "--output", metavar="FILE", help="project file to make; without it only the report is printed")
    bring.add_argument("--unit", choices=("mm", "cm", "m", "in", "ft"), help="length unit, if the file's own is wrong")
    bring.add_argument("--mean", action="append", metavar="NAME=MEANING", help="what a profile's name (a section) or a material's (a grade) stands for; may be given several times")
    bring.add_argument("--inch", action="store_true", help="make a project in feet and inches with AISC rules")
    bring.add_argument("--force", action="store_true", help="replace the project file if it exists")
    true = verb("true-up", _true_up, "show what true-up would change; with --keep, do it", as_json=True)
    true.add_argument("--rules", metavar="A,B", help="only these rules: " + ", ".join(RULES))
    true.add_argument("--keep", action="store_true", help="change the project")
    verb("stock", _stock, "list members over stock length with proposed splits", as_json=True)
    compare = verb("compare", _compare, "compare two snapshots, or one with now", as_json=True)
    compare.add_argument("first", metavar="SNAPSHOT")
    compare.add_argument("second", metavar="SNAPSHOT", nargs="?", default="now")
    revise = verb("revise", _revise, "compare with a revised engineer's model; with --keep, take it in", as_json=True)
    revise.add_argument("source", metavar="IN.ifc")
    revise.add_argument("--unit", choices=("mm", "cm", "m", "in", "ft"), help="length unit, if the file's own is wrong")
    revise.add_argument("--keep", action="store_true", help="accept every row")
    select = verb("select", _select, "list the members a query picks", as_json=True)
    select.add_argument("query", metavar="QUERY", help="such as 'role:beam size:UB* end:open'")
    rules = verb("house", _house, "list the house rules and what differs from the standard, try a change, or write them to a file", as_json=True)
    rules.add_argument("--try", dest="attempt", action="append", metavar="NAME=VALUE", help="say what a change would do to the model; nothing is kept")
    rules.add_argument("--write", metavar="STANDARD.json", help="write them as an office standard")
    rules.add_argument("--name", help="the standard's name; the file's if not given")
    verb("families", _families, "list the families and their settings", file=False, as_json=True)
    verb("commands", _commands, "list the commands that scripts may use", file=False, as_json=True)
    do = verb("do", _do, "run a script of commands, one JSON object a line, all or nothing")
    do.add_argument("script", metavar="SCRIPT.jsonl", help="or - for standard input")
    verb("undo", _turn, "take the last command back")
    verb("redo", _turn, "do the last undone command again")
    bench = verb("bench", _bench, "measure this machine against the figures the program must reach", file=False, as_json=True)
    bench.add_argument("--quick", action="store_true", help="smaller models, for a first impression")
    return top


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; errors go to the error stream in one line and exit 2."""
    args = parser().parse_args(argv)
    args.open = []
    for one in load_own(args.own_families) if args.own_families else ():
        if one.problem:
            _tell(f"tincleat: note: not loaded: {one.problem}", sys.stderr)
    # what one run makes lives to its end: looking for garbage among a million values would be a third of its time
    before = gc.get_threshold()
    gc.set_threshold(500_000, *before[1:])
    try:
        code = int(args.run(args))
        sys.stdout.flush()
        return code
    except TinCleatError as error:
        _tell(f"tincleat: {error}", sys.stderr)
        return 2
    except BrokenPipeError:
        # nobody reads on: what is left in the buffer has nowhere to go
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        _tell("tincleat: stopped", sys.stderr)
        return 2
    except OSError as error:
        _tell(f"tincleat: cannot be written: {reason(error)}", sys.stderr)
        with contextlib.suppress(OSError, ValueError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 2
    except (MemoryError, RecursionError) as error:
        _tell(f"tincleat: this is more than can be worked on here ({type(error).__name__}); nothing was changed", sys.stderr)
        return 2
    finally:
        gc.set_threshold(*before)
        for desk in args.open:
            desk.close()


def _tell(text: str, stream: "TextIO | None" = None) -> None:
    """Print a text so that no name in it steers the terminal, and no terminal is too narrow for its letters."""
    stream = stream or sys.stdout
    text = shown(text)
    encoding = getattr(stream, "encoding", None) or "utf-8"
    stream.write(text.encode(encoding, "backslashreplace").decode(encoding) + "\n")


if __name__ == "__main__":
    sys.exit(main())

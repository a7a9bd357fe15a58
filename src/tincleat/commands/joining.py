"""Joining rules: an ordered list by which all open ends are joined at once, tried before anything is kept."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

import msgspec

from tincleat.commands.connections import together, typical_of
from tincleat.commands.frame import to_mm
from tincleat.commands.registry import command
from tincleat.errors import BadValue, Progress, Refused, TinCleatError, go_on
from tincleat.families.registry import FAMILIES, family
from tincleat.joints.case import MEETING, PLACED, Joint, Kind
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.mend import mend_words, part
from tincleat.project.entities import Connection, Delta, End, Joining, JoinRule, Role, Value
from tincleat.project.project import Project
from tincleat.units import format_length

STOPPED = "joining by rules was cancelled; nothing was changed"
KINDS: tuple[str, ...] = tuple(k for k in get_args(Kind) if k not in PLACED or k == "crossing")
SHAPES = ("I", "C", "L", "T", "RHS", "CHS", "FL", "RD", "Z", "CF")
MOST_RULES = 200
NO_RULE, SHORT = "no rule is for it", "it meets nothing there: move or lengthen it, or leave it plain"
EVERY = 200  # joints after which progress is told


def _rule(name: str, *kinds: str, **more: Any) -> JoinRule:
    return JoinRule(name, kinds, **more)


_COMMON = (
    _rule("bracing-gusset", "brace end"),
    _rule("rod-through", "brace end", shapes=("RD",)),
    _rule("flange-gusset", "brace on flange"),
    _rule("purlin-cleat", "crossing", "lap"),
    _rule("trimmer-cleat", "beam to beam web", shapes=("Z", "CF")),
    _rule("timber-seat", "beam to beam web", "beam to column web", "beam to column flange", "beam to hollow face"),
    _rule("tube-joint", "beam to hollow face", shapes=("CHS", "RHS")),
    _rule("tube-mitre", "corner", "apex", "knee", "beam to hollow face", shapes=("CHS", "RHS")),
    _rule("stringer-foot", "sloping foot"),
    _rule("post-side", "post beside"),
    _rule("cap-plate", "column under beam", "post on beam"),
    _rule("base-plate", "column foot"),
    _rule("end-plate", "knee", "apex"),
    _rule("end-plate", "splice", roles=("rafter",)),
    _rule("flange-plates", "splice", "column splice", shapes=("CHS", "RHS")),
    _rule("splice-covers", "splice", "column splice"),
    _rule("cap-and-base", "column splice"),
    _rule("left-plain", "column head"),
)
# what offices that work to each rule set do where nobody says otherwise: simple joints by plates welded to the support, by cleats where those do not suit
USUAL: dict[str, tuple[JoinRule, ...]] = {
    "EN": (
        *_COMMON, _rule("fin-plate", "beam to column flange", most_depth=610.0), _rule("end-plate", "beam to column flange"), _rule("fin-plate", "beam to column web", "beam to beam web", "beam to hollow face"),
        _rule("angle-cleats", "beam to column web", "beam to beam web", "beam to column flange"), _rule("end-plate", "beam to column web", "beam to beam web", "beam on flange"), _rule("stringer-head", "beam to beam web", "beam to column web"),
        _rule("tube-end-plate", "beam to column flange", "beam to column web", "beam to beam web", "beam on flange"), _rule("seat-cleat", "beam to column flange", "beam to column web", "beam to beam web"),
    ),
    "AISC": (
        *_COMMON, _rule("angle-cleats", "beam to column flange", least_depth=609.6), _rule("fin-plate", "beam to column flange", "beam to column web", "beam to beam web", "beam to hollow face"),
        _rule("angle-cleats", "beam to column flange", "beam to column web", "beam to beam web"), _rule("end-plate", "beam to column flange", "beam to column web", "beam to beam web", "beam on flange"), _rule("stringer-head", "beam to beam web", "beam to column web"),
        _rule("tube-end-plate", "beam to column flange", "beam to column web", "beam to beam web", "beam on flange"), _rule("seat-cleat", "beam to column flange", "beam to column web", "beam to beam web"),
    ),
}  # fmt: skip


def rules_of(project: Project) -> tuple[JoinRule, ...]:
    """The project's joining rules, or the usual ones of its rule set; those for nothing that this program has are left out."""
    found = project.joining
    return tuple(r for r in (USUAL[project.house.rule_set] if found is None else found) if r.family in FAMILIES)


@dataclass
class Left:
    """An open joint that no rule settles, and why in words."""

    joint: Joint
    why: str


@dataclass
class Plan:
    """What joining by rules would do: connections without ids with the number of the rule each comes of, and what is left."""

    made: list[tuple[int, Connection]] = field(default_factory=list)
    left: list[Left] = field(default_factory=list)
    ends: list[int] = field(default_factory=list)  # how many joints each rule settles
    parted: "Counter[str]" = field(default_factory=Counter)  # what was set otherwise to keep clear of what stands beside, in words
    breaches: list[tuple[Joint, str]] = field(default_factory=list)  # connections that would be in breach all the same, each with a first reason


def suits(project: Project, rule: JoinRule, joint: Joint) -> bool:
    """Whether a rule is for a joint, by its kind and the member joined; whether the family takes it is another matter."""
    kind = FAMILIES[rule.family]
    if joint.kind not in (rule.kinds or kind.kinds) or (joint.kind in kind.pointed and joint.kind not in rule.kinds):
        return False
    shape, member = joint.case.supported.shape, project.members.get(joint.members[0])
    return (
        (not rule.roles or (member is not None and member.role in rule.roles))
        and (not rule.shapes or shape.shape in rule.shapes)
        and not (rule.least_depth and shape.h < rule.least_depth - 0.01)
        and not (rule.most_depth and shape.h > rule.most_depth + 0.01)
    )


def plan(project: Project, ledger: Ledger, rules: Sequence[JoinRule], progress: Progress | None = None) -> Plan:
    """Try the rules on all open ends, in their order; raises Cancelled if ``progress`` says so.  Nothing is kept."""
    out = Plan(ends=[0] * len(rules))
    open_: dict[str, Joint] = {e.joint.key: e.joint for e in ledger.entries.values() if not e.settled and e.joint.ends}
    total, reasons = max(1, len(open_)), dict.fromkeys(open_, "")
    refused: dict[tuple[int, int], str] = {}
    for number, rule in enumerate(rules):
        kind = FAMILIES[rule.family]
        wanted = [Connection("", kind.name, *j.ends[0], typical=rule.typical, settings=dict(rule.settings)) for j in open_.values() if suits(project, rule, j)]
        if "crossing" in kind.kinds and kind.name != PLAIN and (not rule.kinds or "crossing" in rule.kinds):
            for over, under in ledger.finder.crossings():
                if f"{over}x{under}" not in ledger.entries and (joint := ledger.finder.crossing(over, under)) is not None and suits(project, rule, joint):
                    wanted.append(Connection("", kind.name, over, "start", other=under, typical=rule.typical, settings=dict(rule.settings)))
        if kind.shares > 1:
            wanted = together(ledger, wanted, kind.shares)
        for done, one in enumerate(_each(wanted)):
            if done % EVERY == 0:
                go_on(progress, 1 - len(open_) / total, f"{kind.label}: {len(out.made)} joined", STOPPED)
            joint = ledger.site(one)
            if joint is None:
                continue
            known = (number, id(joint.case)) if not kind.sees and not kind.scheduled else None
            why = refused.get(known) if known is not None else None
            if why is None:
                why = ledger.refusal(joint, kind.name, rule.settings, rule.typical)
                if known is not None:
                    refused[known] = why
            if not why:
                out.made.append((number, one))
                for key in dict.fromkeys([joint.key, *(ledger.by_end.get(e, "") for e in joint.ends)]):
                    out.ends[number] += open_.pop(key, None) is not None
                continue
            if one.more:  # what does not suit several ends together may suit each
                wanted += [Connection("", kind.name, *end, typical=one.typical, settings=one.settings) for end in one.ends]
            elif joint.key in reasons:
                reasons[joint.key] = reasons[joint.key] or f"{kind.label}: {why}"
    out.left = [Left(j, reasons[j.key] or (SHORT if j.kind in MEETING else NO_RULE)) for j in open_.values()]
    if out.made:
        _part(ledger, out, progress)
    return out


def _part(ledger: Ledger, out: Plan, progress: Progress | None) -> None:
    """Place the planned connections in a ledger beside the real one, set otherwise what would run into its neighbours there, and note what stays in breach."""
    other = ledger.beside()
    project = other.project
    names = [project.new_id("c") for _ in out.made]
    _take(other, [msgspec.structs.replace(one, id=name) for name, (_, one) in zip(names, out.made, strict=True)])
    known: dict[tuple[str, int], tuple[tuple[str, Value], ...]] = {}  # what did for the same detail elsewhere
    crowded = [e for e in other.entries.values() if e.connection is not None and any(f.rule == "clash" and f.level == "breach" for f in e.findings)]
    keys = dict.fromkeys(e.joint.key for e in crowded)
    keys |= dict.fromkeys(n.joint.key for e in crowded for n in other.entries.near(e))  # either of two may give way
    mine = dict(zip(names, range(len(names)), strict=True))
    for done, key in enumerate(keys):
        if done % 10 == 0:
            go_on(progress, done / len(keys), f"{done:,} of {len(keys):,} looked at beside their neighbours", STOPPED)
        e = other.entries[key]
        if e.connection is None or e.connection.id not in mine or e.made is None:
            continue
        kind = (e.connection.family, id(e.made))
        said = {n.name for n in e.made.detail.numbers if n.origin in ("typed", "typical", "schedule")}  # by the rule or its typical: not for the plan to change
        found = part(other, e, known.get(kind, ()), said)
        if found is not None:
            known[kind] = tuple(dict.fromkeys((found, *known.get(kind, ()))))
            out.parted[f"{FAMILIES[e.connection.family].label}: {mend_words(other, e, *found)}"] += 1
            at = mine[e.connection.id]
            number, one = out.made[at]
            out.made[at] = (number, msgspec.structs.replace(one, settings={**one.settings, found[0]: found[1]}))
    for name in names:
        key_ = other.key_of(project.connections[name])
        entry = other.entries.get(key_ or "")
        if entry is not None and entry.level == "breach":
            out.breaches.append((entry.joint, next(f.message for f in entry.findings if f.level == "breach")))


def _take(ledger: Ledger, connections: Sequence[Connection]) -> None:
    changes = ledger.project.put(*connections)
    ledger.project.apply(changes)
    ledger.changed(changes)


def _each(wanted: list[Connection]) -> Iterable[Connection]:
    """All of a list that may grow meanwhile, and those of its ends once only."""
    taken: set[tuple[str, End]] = set()
    for one in wanted:
        if one.more or not one.ends or one.ends[0] not in taken:
            yield one
            taken.update(one.ends if not one.more else ())


def deltas(project: Project, found: Plan, rules: Sequence[JoinRule]) -> tuple[str, list[Delta]]:
    """The changes that a plan makes, as one step."""
    if not found.made:
        why = found.left[0].why if found.left else "every end is joined"
        raise Refused("no rule settles an open end", "join-all", why)
    used = len({n for n, _ in found.made})
    left = f"; {len(found.left)} left, first {found.left[0].joint.words}: {found.left[0].why}" if found.left else ""
    left += "".join(f"; {count} × {words}" for words, count in found.parted.most_common(3))
    left += f"; {len(found.breaches)} in breach, first {found.breaches[0][0].words}: {found.breaches[0][1]}" if found.breaches else ""
    made = [msgspec.structs.replace(one, id=project.new_id("c")) for _, one in found.made]
    return f"Join all: {len(made)} connections by {used} rule{'s' if used > 1 else ''}{left}", project.put(*made)


class JoinAll(msgspec.Struct, forbid_unknown_fields=True):
    """Nothing: the project's joining rules say what is done."""


@command("join-all", "Join all by rules", JoinAll, ("joining rules", "everything", "roll out"), needs_joints=True)
def join_all(project: Project, ledger: Ledger, args: JoinAll) -> tuple[str, list[Delta]]:
    """Join every open end that a joining rule suits, in one step; what is left is counted, the first with its reason."""
    rules = rules_of(project)
    return deltas(project, plan(project, ledger, rules), rules)


class SetJoiningRules(msgspec.Struct, forbid_unknown_fields=True):
    """All joining rules in their order, each a table with ``family`` and what else it says; none at all goes back to the usual ones."""

    rules: list[dict[str, Any]]


@command("set-joining-rules", "Set joining rules", SetJoiningRules, ("join all", "office standard"))
def set_rules(project: Project, ledger: Ledger, args: SetJoiningRules) -> tuple[str, list[Delta]]:
    """Set the joining rules of this project; an empty list goes back to the usual ones of its rule set."""
    if not args.rules:
        return "Back to the usual joining rules", project.drop("joining", ["joining"]) if project.joining is not None else []
    if len(args.rules) > MOST_RULES:
        raise BadValue(f"{len(args.rules)} rules", "set-joining-rules", f"at most {MOST_RULES}")
    made = tuple(rule_of(project, row, f"rule {i}") for i, row in enumerate(args.rules, 1))
    return f"Set {len(made)} joining rule{'s' if len(made) > 1 else ''}", project.put(Joining(rules=made))


def rule_of(project: Project, row: dict[str, Any], where: str) -> JoinRule:
    """A rule from plain values; raises BadValue with the place."""
    try:
        known = {f.name for f in msgspec.structs.fields(JoinRule)}
        if strange := [k for k in row if k not in known]:
            raise BadValue(f"there is no field {strange[0]!r}", right="one of " + ", ".join(sorted(known)))
        kind = family(str(row.get("family", "")))
        kinds = tuple(str(k) for k in row.get("kinds") or ())
        if wrong := [k for k in kinds if k not in kind.kinds]:
            raise BadValue(f"{kind.label} does not take a {wrong[0]}", right="some of " + ", ".join(kind.kinds))
        roles, shapes = (tuple(row.get(n) or ()) for n in ("roles", "shapes"))
        for values, allowed in ((roles, get_args(Role)), (shapes, SHAPES)):
            if wrong := [v for v in values if v not in allowed]:
                raise BadValue(f"{wrong[0]!r} is none of the choices", right=", ".join(allowed))
        least, most = (to_mm(row.get(n) or 0.0, project.house, n) for n in ("least_depth", "most_depth"))
        if least < 0 or most < 0 or (most and least > most):
            raise BadValue(f"depths from {least:g} to {most:g} mm", right="the least no more than the greatest")
        return JoinRule(kind.name, kinds, roles, shapes, least, most, typical_of(project, kind.name, str(row.get("typical") or "")), kind.checked(row.get("settings") or {}, project.house))
    except TinCleatError as error:
        raise error.at(where) from None


def rule_words(project: Project, rule: JoinRule) -> tuple[str, str, str]:
    """A rule in words: the kinds of joint, the members it is for, what joins them."""
    unit, kind = project.house.units, FAMILIES[rule.family]
    depths = [f"from {format_length(rule.least_depth, unit, mark=True)} deep"] * bool(rule.least_depth) + [f"up to {format_length(rule.most_depth, unit, mark=True)} deep"] * bool(rule.most_depth)
    members = ", ".join([*(f"{r}s" for r in rule.roles), *((f"{' or '.join(rule.shapes)} sections",) if rule.shapes else ()), *depths]) or "any"
    typical = project.typicals.get(rule.typical)
    what = kind.label + (f": {typical.name}" if typical else "") + (f", {len(rule.settings)} typed" if rule.settings else "")
    return ", ".join(rule.kinds) or "all it takes", members, what


def as_row(rule: JoinRule) -> dict[str, Any]:
    """A rule as ``set-joining-rules`` takes it."""
    return {k: v for k, v in msgspec.to_builtins(rule).items() if v or k == "family"}

"""Help pages: one for each part of the window, with the keys that work there."""

from collections.abc import Sequence
from html import escape

from tincleat.app.dialogs import Action

PAGES = {
    "Model view": "<p>The steel as it will be made. <b>Right drag</b> turns about the point under the pointer, <b>middle drag</b> or <b>Shift + right drag</b> shifts, the wheel zooms. "
    "Without a mouse: arrow keys turn, Shift + arrows shift, + and - zoom.</p><p><b>Click</b> selects; Ctrl adds. <b>Left drag</b> to the right takes members wholly inside the box, to the left "
    "also those it touches. Right click shows what applies.</p><p>Marks: dashed ring, unjoined; hollow square, clear; half-filled square, note; solid diamond, breach; struck square, accepted.</p>",
    "Detail sheet": "<p>The live drawing of one connection. <b>Click a blue number</b> and type: a length (<tt>12.7</tt>, <tt>1/2in</tt>, <tt>3'-6 1/2\"</tt>), arithmetic (<tt>2*70+5</tt>) or a spacing list "
    "(<tt>3@70</tt>, <tt>60 70 70 60</tt>). The model follows while you type. <b>Enter</b> keeps, <b>Esc</b> returns, up and down step. An empty field goes back to the worked-out value.</p>"
    "<p>A number in breach is bold with its required value beside it. Wheel or + and - zoom, drag shifts, 0 or a double click fits. Arrow keys go from number to number.</p>",
    "Ledger": "<p>All joints in groups of kin: joints alike enough for one detail. The job is done when every row is joined and clear. <b>Enter</b> or a double click zooms; a selected row can be placed at "
    "(panel on the right), changed or deleted as a whole. Type in the filter to keep rows that hold every word.</p>",
    "Findings": "<p>What is not clear, measured on the real shapes: actual against required, with the clause. Enter zooms to the place. In the panel on the right a finding can be fixed where one setting mends it, "
    "or accepted with a name and a reason. An acceptance lapses if the value gets worse.</p>",
    "Bill": "<p>Equal parts counted together, weighed from their exact shapes.</p>",
}
GENERAL = (
    "<p>Five stages on the left: <b>Frame</b> puts steel in, <b>Ready</b> shows ends that need a look, <b>Join</b> places connections, <b>Prove</b> goes through findings, <b>Release</b> hands over. "
    "Everything is kept the moment it is done; undo works after a restart too.</p>"
)


def help_for(name: str, actions: Sequence[Action]) -> tuple[str, str]:
    """Title and page for a part of the window, with all keys below."""
    keys = "".join(f"<tr><td><tt>{escape(a.shortcut)}</tt>&nbsp;&nbsp;</td><td>{escape(a.label)}</td></tr>" for a in actions if a.shortcut)
    page = PAGES.get(name, "")
    title = name if page else "Tin Cleat"
    return f"Help: {title}", f"<h2>{escape(title)}</h2>{page or GENERAL}{GENERAL if page else ''}<h3>Keys</h3><table>{keys}</table>"

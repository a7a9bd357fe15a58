"""All colours, sizes and fonts of the window, by role, for the light and the dark theme."""

from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

SANS, MONO = "B612", "B612 Mono"


@dataclass(frozen=True)
class Theme:
    """Colours by role as ``#rrggbb``; metals are lists of the greys of the model."""

    name: str
    paper: str = "#F5F2EA"
    sheet: str = "#FFFEFA"
    ink: str = "#1D2529"
    quiet: str = "#566166"
    line: str = "#D9D4C6"  # parts areas; nothing is told by it alone
    edge: str = "#8A867A"  # round what can be used
    tin_light: str = "#C9CDCE"
    tin: str = "#9BA3A6"
    tin_dark: str = "#5F6A6E"
    accent: str = "#9A4327"
    accent_soft: str = "#F0DDD3"
    breach: str = "#7A1E12"
    slate: str = "#2F5468"
    ochre: str = "#85590F"
    ochre_mark: str = "#B9832B"
    weld: str = "#8A5F17"
    concrete: str = "#E7E3D8"
    sky: str = "#ECE8DD"
    member: str = "#A9B0B2"
    column: str = "#9BA3A6"
    brace: str = "#B7BBB9"
    plate: str = "#828C90"
    ghost: str = "#B9832B"
    ghost_breach: str = "#7A1E12"


LIGHT = Theme("light")
DARK = replace(
    LIGHT, name="dark", paper="#1F2528", sheet="#262D31", ink="#ECE8DD", quiet="#A9B2B4", line="#3A4347", edge="#7B878C", tin_light="#4A5458", tin="#7D878B", tin_dark="#B3BBBD",
    accent="#E5916B", accent_soft="#4A332A", breach="#F08C78", slate="#8FB8CF", ochre="#D9AE62", ochre_mark="#D9AE62", weld="#D9AE62", concrete="#343B3E", sky="#2B3236",
    member="#8B9497", column="#7F898C", brace="#979E9D", plate="#6B767A", ghost="#F7DC9B", ghost_breach="#C14B35",
)  # fmt: skip
THEMES = {"light": LIGHT, "dark": DARK}


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    folder = files("tincleat.app").joinpath("assets", "fonts")
    for name in ("B612-Regular.otf", "B612-Bold.otf", "B612Mono-Regular.otf"):
        QFontDatabase.addApplicationFontFromData(folder.joinpath(name).read_bytes())


def font(size: float = 9.0, bold: bool = False, mono: bool = False) -> QFont:
    """The window's font in points."""
    made = QFont(MONO if mono else SANS)
    made.setPointSizeF(size)
    made.setBold(bold)
    return made


@lru_cache(maxsize=256)
def pixel_font(pixels: int, bold: bool = False) -> QFont:
    """The window's font by pixels, made once: matching a font costs more than writing with it.  Do not change it."""
    made = QFont(SANS)
    made.setPixelSize(pixels)
    made.setBold(bold)
    return made


def rgb(colour: str) -> tuple[float, float, float]:
    """A colour as three shares of 1."""
    c = QColor(colour)
    return (c.redF(), c.greenF(), c.blueF())


def apply(app: QApplication, t: Theme) -> None:
    """Put a theme on the whole application, unless it has it: every widget there is would be styled anew."""
    sheet = style(t)
    if app.styleSheet() == sheet:
        return
    app.setFont(font())
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.paper), (QPalette.ColorRole.Base, t.sheet), (QPalette.ColorRole.AlternateBase, t.paper), (QPalette.ColorRole.Text, t.ink),
        (QPalette.ColorRole.WindowText, t.ink), (QPalette.ColorRole.Button, t.paper), (QPalette.ColorRole.ButtonText, t.ink), (QPalette.ColorRole.Highlight, t.accent_soft),
        (QPalette.ColorRole.HighlightedText, t.ink), (QPalette.ColorRole.PlaceholderText, t.quiet), (QPalette.ColorRole.ToolTipBase, t.sheet),
        (QPalette.ColorRole.ToolTipText, t.ink), (QPalette.ColorRole.Link, t.slate),
    ):  # fmt: skip
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    app.setStyleSheet(sheet)


def style(t: Theme) -> str:
    """The style sheet of a theme."""
    return f"""
    QWidget {{ color: {t.ink}; }}
    QMainWindow, QDialog, #panel, #drawer, #rail, #actions {{ background: {t.paper}; }}
    QToolTip {{ background: {t.sheet}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    #rail {{ border-right: 1px solid {t.line}; }}
    #actions {{ border-bottom: 1px solid {t.line}; }}
    #panel {{ border-left: 1px solid {t.line}; }}
    #drawer {{ border-top: 1px solid {t.line}; }}
    #quiet {{ color: {t.quiet}; }}
    #breach {{ color: {t.breach}; }}
    #note {{ color: {t.ochre}; }}
    #heading {{ font-weight: bold; font-size: 12pt; }}
    #group {{ color: {t.quiet}; font-size: 8pt; padding-top: 6px; }}
    #sheetframe {{ background: {t.sheet}; border: 0; border-top: 1px solid {t.line}; border-bottom: 1px solid {t.line}; }}
    QPushButton {{ background: transparent; border: 1px solid {t.edge}; border-radius: 3px; padding: 4px 10px; min-height: 18px; }}
    QPushButton:hover {{ border-color: {t.tin_dark}; }}
    QPushButton:focus {{ border: 1px solid {t.accent}; }}
    QPushButton:pressed, QPushButton:checked {{ background: {t.accent_soft}; border-color: {t.accent}; }}
    QPushButton:disabled {{ color: {t.tin}; border-color: {t.line}; }}
    QPushButton#go:focus {{ border: 2px solid {t.ink}; padding: 3px 9px; }}
    QPushButton#go:disabled {{ background: {t.line}; color: {t.quiet}; border-color: {t.line}; }}
    QPushButton#flat:disabled, QPushButton#link:disabled {{ border-color: transparent; }}
    QPushButton#flat {{ border: 1px solid transparent; padding: 4px 8px; }}
    QPushButton#flat:hover {{ border-color: {t.line}; }}
    QPushButton#flat:focus {{ border-color: {t.accent}; }}
    QPushButton#flat:checked {{ background: {t.accent_soft}; border-color: {t.accent}; }}
    QPushButton::menu-indicator {{ image: none; width: 0; }}
    QScrollArea:focus {{ border: 1px solid {t.accent}; }}
    QPushButton#go {{ background: {t.accent}; color: {t.sheet}; border-color: {t.accent}; }}
    QPushButton#recent {{ border: 1px solid transparent; text-align: left; padding: 3px; }}
    QPushButton#recent:hover {{ border-color: {t.edge}; }}
    QPushButton#recent:focus {{ border-color: {t.accent}; }}
    QPushButton#link {{ border: 0; color: {t.slate}; padding: 2px 4px; text-align: left; min-height: 16px; }}
    QPushButton#link:hover {{ text-decoration: underline; }}
    QPushButton#link:focus {{ border: 1px solid {t.accent}; }}
    QLineEdit, QComboBox, QPlainTextEdit {{ background: {t.sheet}; border: 1px solid {t.edge}; border-radius: 2px; padding: 2px 5px; min-height: 18px;
        selection-background-color: {t.accent_soft}; selection-color: {t.ink}; placeholder-text-color: {t.quiet}; }}
    QLineEdit:disabled, QComboBox:disabled {{ color: {t.tin}; border-color: {t.line}; }}
    QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus {{ border: 1px solid {t.accent}; }}
    QLineEdit[bad="true"] {{ border: 2px solid {t.breach}; padding: 1px 4px; }}
    QComboBox::drop-down {{ border: 0; width: 18px; }}
    QComboBox::down-arrow {{ image: url({files("tincleat.app").joinpath("assets", "icons", f"down-{t.name}.svg")}); width: 9px; height: 9px; }}
    QComboBox QAbstractItemView {{ background: {t.sheet}; border: 1px solid {t.line}; selection-background-color: {t.accent_soft}; selection-color: {t.ink}; }}
    QTabBar::tab {{ background: transparent; padding: 5px 12px; border: 0; border-bottom: 2px solid transparent; color: {t.quiet}; }}
    QTabBar::tab:selected {{ color: {t.ink}; border-bottom: 2px solid {t.accent}; }}
    QTabBar::tab:focus {{ color: {t.accent}; }}
    QTableView {{ background: {t.sheet}; border: 0; gridline-color: transparent; selection-background-color: {t.accent_soft}; selection-color: {t.ink}; outline: 0; }}
    QTableView::item {{ padding: 1px 6px; border-bottom: 1px solid {t.line}; }}
    QTableView::item:selected {{ border-top: 1px solid {t.accent}; border-bottom: 1px solid {t.accent}; }}
    QTableView:focus {{ border: 1px solid {t.accent}; }}
    QHeaderView::section {{ background: {t.paper}; color: {t.quiet}; border: 0; border-bottom: 1px solid {t.line}; padding: 3px 6px; }}
    QScrollArea {{ border: 0; background: {t.paper}; }}
    QScrollArea > QWidget > QWidget {{ background: {t.paper}; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle {{ background: {t.tin_light}; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QDialogButtonBox, QMessageBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QSplitter::handle {{ background: {t.line}; }}
    QStatusBar {{ background: {t.paper}; border-top: 1px solid {t.line}; }}
    QStatusBar::item {{ border: 0; }}
    QMenu {{ background: {t.sheet}; border: 1px solid {t.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 20px 5px 12px; }}
    QMenu::item:selected {{ background: {t.accent_soft}; }}
    QMenu::item:disabled {{ color: {t.tin}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
    QListWidget {{ background: {t.sheet}; border: 1px solid {t.line}; outline: 0; }}
    QListWidget::item {{ padding: 5px 8px; }}
    QListWidget::item:selected {{ background: {t.accent_soft}; color: {t.ink}; border: 1px solid {t.accent}; }}
    QProgressBar {{ border: 1px solid {t.line}; border-radius: 2px; background: {t.sheet}; height: 10px; text-align: center; }}
    QProgressBar::chunk {{ background: {t.accent}; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {t.tin_dark}; border-radius: 2px; background: {t.sheet}; }}
    QCheckBox::indicator:checked {{ background: {t.accent}; }}
    QCheckBox:focus {{ color: {t.accent}; }}
    QTextBrowser {{ background: {t.sheet}; border: 0; }}
    """

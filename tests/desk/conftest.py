"""A real window on its own scene."""

import gc

import pytest
from PyQt6.QtCore import QPoint, QPointF, QSettings, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

import wild_heron as wh
from wild_heron.desk.checking.checker import Checker
from wild_heron.desk.shell import desk as desk_parts
from wild_heron.desk.shell.window import MainWindow
from wild_heron.desk.widgets.theme import apply_style, apply_theme


@pytest.fixture(scope="session", autouse=True)
def collect_in_this_thread():
    """As in the program: the collector does not run in threads that read files."""
    gc.collect()
    gc.freeze()
    gc.disable()
    yield
    gc.enable()


@pytest.fixture(scope="session")
def qapp_args():
    return ["wild-heron-tests"]


@pytest.fixture
def settings(tmp_path):
    out = QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)
    out.setValue("preview/megabytes", 0)  # Frames drawn ahead would keep the renderer busy; tests of them ask for it.
    out.setValue("checks/background", 0)  # Likewise: tests of the checks show their tab.
    return out


@pytest.fixture(autouse=True)
def renderer_when_it_is_waited_for(monkeypatch):
    """A render process takes as long to start as most tests take: those that are over before do without."""
    monkeypatch.setattr(desk_parts, "_RENDERER_MS", 500)


@pytest.fixture(scope="session")
def themed(qapp):
    """The application in its colours: set once, for it takes longer than a window."""
    apply_theme(qapp)
    apply_style()
    return qapp


@pytest.fixture
def make_window(themed, settings):
    """Windows that are closed without a question at the end."""
    # What tests before have let go goes; what is left then, which grows with every test, is looked through no more.
    gc.collect()
    gc.freeze()
    made: list[MainWindow] = []

    def make() -> MainWindow:
        window = MainWindow(settings)
        window.fill()
        window.resize(1280, 800)
        window.show()
        QTest.qWaitForWindowExposed(window)
        # Without a window manager nobody else makes it active, and shortcuts go to the active window.
        window.activateWindow()
        QTest.qWaitForWindowActive(window, 3000)
        made.append(window)
        return window

    yield make
    for window in made:
        window.desk.files.may_leave = lambda: True
        window.close()
        window.deleteLater()
    made.clear()
    QApplication.sendPostedEvents()
    # Here, where the widgets belong; a thread of a later test would take them down in the wrong place.
    gc.collect()


@pytest.fixture
def looked_at(monkeypatch):
    """The frames whose pictures were read, one after the other."""
    frames: list[float] = []
    read = Checker._read

    def noted(checker, measures, row):
        frames.append(float(measures.frames[row]))
        read(checker, measures, row)

    monkeypatch.setattr(Checker, "_read", noted)
    return frames


def chord(widget: QWidget, keys: str) -> None:
    """Press letters one after the other, as the chord of an action."""
    for key in keys:
        QtBot.keyClick(widget, getattr(Qt.Key, f"Key_{key}"))


@pytest.fixture(autouse=True)
def keys_arrive(monkeypatch):
    """Keys go to a window that has the focus: without a window manager a screen may leave it with none."""
    click = QTest.keyClick

    def click_in_focus(widget, *key):
        if QApplication.activeWindow() is None:
            widget.window().activateWindow()
            QTest.qWaitForWindowActive(widget.window(), 3000)
        click(widget, *key)

    monkeypatch.setattr(QtBot, "keyClick", staticmethod(click_in_focus))


@pytest.fixture
def window(make_window, rig, art):
    """The rig scene, saved and open."""
    path = art / "rig.heron"
    wh.save(rig, path)
    out = make_window()
    assert out.desk.files.open(path, ask=False)
    out.desk.document.turns.finish()
    return out


class Mouse:
    """Real presses, moves and releases on a widget."""

    @staticmethod
    def drag(
        widget: QWidget,
        start: QPoint | QPointF,
        *stops: tuple[float, float],
        button=Qt.MouseButton.LeftButton,
        keys=Qt.KeyboardModifier.NoModifier,
        release: bool = True,
    ) -> None:
        """Press at a point, move by way of offsets from it, and let go."""
        at = QPointF(start)
        Mouse.send(widget, "press", at, button, keys)
        for dx, dy in stops:
            Mouse.send(widget, "move", at + QPointF(dx, dy), button, keys)
        if release:
            end = at + QPointF(*stops[-1]) if stops else at
            Mouse.send(widget, "release", end, button, keys)

    @staticmethod
    def send(
        widget: QWidget, what: str, at: QPointF, button=Qt.MouseButton.LeftButton, keys=Qt.KeyboardModifier.NoModifier
    ) -> None:
        kinds = {
            "press": QMouseEvent.Type.MouseButtonPress,
            "move": QMouseEvent.Type.MouseMove,
            "release": QMouseEvent.Type.MouseButtonRelease,
            "double": QMouseEvent.Type.MouseButtonDblClick,
        }
        none = Qt.MouseButton.NoButton
        event = QMouseEvent(
            kinds[what],
            at,
            widget.mapToGlobal(at),
            none if what == "move" else button,
            none if what == "release" else button,
            keys,
        )
        QApplication.sendEvent(widget, event)


@pytest.fixture
def mouse():
    return Mouse

"""Qt lives in the window's thread alone: what threads run, hold, import and leave behind."""

import ast
import os
import subprocess
import sys
import threading
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wild_heron import desk
from wild_heron.desk.state.background import Background

DESK = Path(desk.__file__).parent


@pytest.fixture
def background(qapp):
    out = Background()
    yield out
    out.stop()
    assert out.running == []


class TestBackground:
    def test_what_comes_of_it_is_taken_in_by_the_windows_thread(self, background, qtbot):
        threads, told, done = [], [], []

        def work(errand):
            threads.append(threading.current_thread())
            errand.tell(1, 2)
            errand.tell(2, 2)
            return "found"

        def take(found):
            threads.append(threading.current_thread())
            done.append(found)

        background.start("look", work, take, lambda *what: told.append(what))
        qtbot.waitUntil(lambda: bool(done))
        assert (told, done) == ([(1, 2), (2, 2)], ["found"])
        assert threads[0] is not threads[1] is threading.main_thread()
        assert background.running == []

    def test_an_error_is_handed_on_or_raised_here_and_the_others_still_come(self, background, qtbot):
        def fail(errand):
            raise LookupError("lost")

        failed, done = [], []
        with qtbot.captureExceptions() as raised:
            background.start("one", fail, done.append, failed=failed.append)
            background.start("two", fail, done.append)
            background.start("three", lambda errand: 3, done.append)
            qtbot.waitUntil(lambda: bool(done) and bool(raised) and bool(failed))
        assert [str(each) for each in failed] == ["lost"]
        assert [kind for kind, _, _ in raised] == [LookupError]
        assert done == [3]

    @pytest.mark.parametrize("way", ["method", "signal", "cell", "partial", "inner", "default"])
    def test_work_that_holds_anything_of_qt_is_refused(self, background, way):
        class Panel(QObject):
            moved = pyqtSignal(int)

            def work(self, errand):
                return None

        panel = Panel()

        def inner(errand):
            return panel.objectName()

        def tells(errand, tell=panel.moved.emit):
            tell(1)

        held = {
            "method": panel.work,
            "signal": lambda errand, emit=panel.moved.emit: emit(3),
            "cell": inner,
            "partial": partial(lambda what, errand: None, [panel]),
            "inner": lambda errand: inner(errand),
            "default": tells,
        }
        with pytest.raises(TypeError, match="which is Qt's"):
            background.start("look", held[way], lambda found: None)

    def test_what_is_let_go_is_told_no_more_and_waited_for_at_the_end(self, qapp, qtbot):
        background, gate, ended, told = Background(), threading.Event(), [], []

        def work(errand):
            errand.tell("on its way")
            gate.wait(20.0)
            ended.append(errand.cancelled)
            return "late"

        errand = background.start("slow", work, told.append, told.append)
        background.let_go(errand)
        assert errand.cancelled
        assert background.running == ["slow"]
        QTimer.singleShot(0, gate.set)
        qtbot.waitUntil(lambda: bool(ended))
        background.stop()
        qtbot.wait(0)
        assert (ended, told, background.running) == ([True], [], [])
        # After the end nothing begins, and what threads still say goes nowhere.
        late = background.start("later", work, told.append)
        errand.tell("into the void")
        assert late.is_over
        assert background.running == []

    def test_it_is_finished_at_once_where_that_is_asked_for(self, background):
        done = []
        errand = background.start("quick", lambda errand: 7, done.append)
        background.finish(errand)
        assert done == [7]
        background.finish(errand)
        assert done == [7]

    def test_a_line_may_be_used_by_any_thread(self, background, qtbot):
        heard = []
        line = background.line(lambda what: heard.append((what, threading.current_thread())))
        each = [threading.Thread(target=line, args=(k,)) for k in range(5)]
        for thread in each:
            thread.start()
        qtbot.waitUntil(lambda: len(heard) == 5)
        assert {what for what, _ in heard} == set(range(5))
        assert {thread for _, thread in heard} == {threading.main_thread()}


def _run_by_threads(tree: ast.Module) -> list[ast.FunctionDef]:
    """The functions of a module that are handed to threads, and those that they call by name."""
    functions = {each.name: each for each in ast.walk(tree) if isinstance(each, ast.FunctionDef)}
    names: set[str] = set()
    for call in ast.walk(tree):
        if not isinstance(call, ast.Call):
            continue
        called = ast.unparse(call.func)
        handed = [keyword.value for keyword in call.keywords if keyword.arg == "target"]
        if called.endswith("background.start"):
            handed += call.args[1:2]
        if called.endswith(".submit"):
            handed += call.args[:1]
        for value in handed:
            names |= {each.attr if isinstance(each, ast.Attribute) else each.id
                      for each in ast.walk(value) if isinstance(each, ast.Attribute | ast.Name)}  # fmt: skip
    found: dict[str, ast.FunctionDef] = {}
    waiting = [name for name in names if name in functions]
    while waiting:
        name = waiting.pop()
        if name in found:
            continue
        found[name] = functions[name]
        for each in ast.walk(functions[name]):
            if isinstance(each, ast.Name | ast.Attribute):
                other = each.id if isinstance(each, ast.Name) else each.attr
                waiting += [other] if other in functions else []
    return list(found.values())


def test_no_function_that_a_thread_runs_imports_anything_of_qt():
    wrong, seen = [], 0
    for path in DESK.rglob("*.py"):
        tree = ast.parse(path.read_text())
        for function in _run_by_threads(tree):
            seen += 1
            for each in ast.walk(function):
                names = [alias.name for alias in each.names] if isinstance(each, ast.Import) else []
                if isinstance(each, ast.ImportFrom):
                    # Of our own only what lies outside the desk.
                    depth = len(path.relative_to(DESK).parts)
                    names = [each.module or ""] if each.level == 0 or each.level > depth else ["PyQt6 through the desk"]
                wrong += [f"{path.name}: {function.name} imports {name}" for name in names if "PyQt6" in name]
    assert seen >= 6
    assert wrong == []


def test_threads_are_begun_in_few_places_which_know_nothing_of_qt():
    """Everything else goes through ``Background``, which refuses work that holds anything of Qt."""
    begun = {
        str(path.relative_to(DESK))
        for path in DESK.rglob("*.py")
        for word in ("threading.Thread(", "QThread", "QRunnable", "QThreadPool", "ThreadPoolExecutor(")
        if word in path.read_text()
    }
    assert begun == {"state/background.py", "state/prefetch.py", "sound/feed.py"}
    for name in begun - {"state/background.py"}:
        assert "PyQt6" not in (DESK / name).read_text(), name


def test_the_watch_sees_an_import_in_a_thread():
    """What the whole suite is run under: see conftest."""
    from tests import conftest

    thread = threading.Thread(target=lambda: __import__("PyQt6.QtCore"), name="stray")
    thread.start()
    thread.join()
    assert conftest._strayed == ["PyQt6.QtCore in the thread “stray”"]
    conftest._strayed.clear()


@pytest.mark.parametrize("part", ["starts", "windows", "ends"])
def test_a_short_soak(part):
    """``make soak`` runs long ones: starts and ends at random moments beside busy processes, windows in one process,
    ends of the interpreter with a window open."""
    count = {"starts": 3, "windows": 3, "ends": 1}[part]
    tools = str(Path(__file__).parents[2] / "tools")
    done = subprocess.run(
        [sys.executable, "-m", "soak", f"--{part}", str(count), "--seed", "11"],
        env=os.environ | {"PYTHONPATH": tools}, capture_output=True, text=True, timeout=240,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr

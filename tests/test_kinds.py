"""Every kind of thing is told in each layer that has to know it; what is missing is named."""

import ast
from pathlib import Path
from typing import get_args

import msgspec
import pytest
from msgspec.structs import replace

import wild_heron
from wild_heron.evaluate.binds import SOLVERS
from wild_heron.evaluate.extent import EXTENTS
from wild_heron.evaluate.movers import SOLVERS as MOVERS
from wild_heron.files.formats import FORMATS
from wild_heron.motion.easing import UnitEase, unit_ease
from wild_heron.scene import Family, Lag, Match, Mix, Null, Text
from wild_heron.scene.artwork import Card
from wild_heron.scene.binds import BIND_KINDS
from wild_heron.scene.ease_families import FAMILIES
from wild_heron.scene.fields import shown
from wild_heron.scene.mover_presets import new_mover
from wild_heron.scene.movers import MOVER_KINDS
from wild_heron.scene.nodes import NODE_KINDS
from wild_heron.scene.types import Role

SOURCE = Path(wild_heron.__file__).parent


def files_that_name(word: str) -> list[str]:
    """Source files, besides the demo, whose code names something, or has it as a text of its own."""
    found = []
    for path in sorted(SOURCE.rglob("*.py")):
        if path.relative_to(SOURCE).parts[0] == "demo" or word not in path.read_text():
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            names = (getattr(node, field, None) for field in ("id", "attr", "name", "value"))
            if word in [each for each in names if isinstance(each, str)]:
                found.append(str(path.relative_to(SOURCE)))
                break
    return found


@pytest.mark.parametrize("kind", BIND_KINDS, ids=lambda kind: kind.__name__)
class TestBinds:
    def test_it_has_a_solver_and_rows_and_an_action(self, kind):
        from wild_heron.desk.commands import bind_commands

        assert kind in SOLVERS, f"{kind.__name__} has no solver in evaluate/binds"
        made = (*(SOURCE / "desk/commands").glob("*.py"), SOURCE / "edits/framings.py", SOURCE / "edits/mixes.py")
        assert any(f"{kind.__name__}(" in path.read_text() for path in made) or kind.__name__ == "AimAt", (
            f"nothing makes a {kind.__name__}"
        )
        assert bind_commands.BIND_ACTIONS

    def test_every_field_says_how_it_is_shown(self, kind):
        """What is not in a row is what it is bound to, which is its heading."""
        rows = kind("a").rows if kind is Match else kind(("a",)).rows if kind is Mix else kind.rows
        there = {name for _, *names in rows for name in names} | {kind.beside} - {""}
        own = {each.name for each in msgspec.structs.fields(kind)} - {"id", "on", "what", *kind.nodes}
        assert own <= there, f"{kind.__name__}.rows lacks {own - there}"
        for name in there & {each.name for each in msgspec.structs.fields(kind)}:
            assert shown(kind, name).label

    def test_it_says_what_it_is(self, kind):
        assert kind.label, f"{kind.__name__} has no label"
        assert set(kind.poses) <= set(kind.nodes), f"{kind.__name__}.poses names fields that are no nodes"
        assert set(kind.needs) <= set(kind.nodes), f"{kind.__name__}.needs names fields that are no nodes"
        assert set(kind.roles) <= set(kind.nodes), f"{kind.__name__}.roles names fields that are no nodes"
        assert set(kind.roles.values()) <= set(get_args(Role))


@pytest.mark.parametrize("kind", MOVER_KINDS, ids=lambda kind: kind.__name__)
class TestMovers:
    def test_it_is_solved_shown_offered_and_drawn(self, kind):
        from wild_heron.desk.commands.mover_commands import MOVER_ACTIONS
        from wild_heron.desk.widgets.kind_looks import MOVER_LOOKS, tag_of

        assert kind in MOVERS, f"{kind.__name__} has no solver in evaluate/movers"
        assert tag_of(kind) in MOVER_LOOKS, f"{kind.__name__} has no letter and colour in desk/widgets/kind_looks.py"
        assert f"life.{tag_of(kind)}" in {action.name for action in MOVER_ACTIONS}
        assert new_mover(kind, Null(id="a", name="A")).targets

    def test_every_field_says_how_it_is_shown(self, kind):
        """What a mover is set up by stands in one of its rows."""
        rows = [kind().rows] if kind.__name__ != "Impact" else [kind(when=each).rows for each in ("event", "contact")]
        there = {name for own in rows for _, *fields in own for name in fields}
        inherited = {each.name for each in msgspec.structs.fields(Lag)} - {"by", "delay"}
        own = {each.name for each in msgspec.structs.fields(kind)} - inherited
        assert own <= there, f"{kind.__name__}.rows lacks {own - there}"
        for name in there:
            assert shown(kind, name).label

    def test_it_says_what_it_is(self, kind):
        assert kind.label
        assert kind.hint
        assert kind().id == kind().strength.partition(".")[0]
        assert set(kind.spaces) <= {"own", "carrier", "world", "picture"}


@pytest.mark.parametrize("kind", NODE_KINDS, ids=lambda kind: kind.__name__)
class TestNodes:
    def test_it_has_an_icon_and_a_page(self, kind):
        from wild_heron.desk.inspector.inspector_panel import PAGES
        from wild_heron.desk.widgets.icons import DRAWINGS

        assert kind.kind in DRAWINGS, f"{kind.__name__} has no icon in desk/widgets/icons.py"
        assert kind in PAGES, f"{kind.__name__} has no page in desk/inspector"

    def test_what_is_seen_takes_up_room_and_is_drawn(self, kind):
        assert kind.roles <= set(get_args(Role)), f"{kind.__name__} has roles that nobody asks for"
        if "seen" in kind.roles:
            assert kind in EXTENTS, f"{kind.__name__} is seen, and has no extent in evaluate/extent.py"
            assert any(f.startswith("gl/") for f in files_that_name(kind.__name__)), f"nothing draws {kind.__name__}"
        else:
            assert kind not in EXTENTS, f"{kind.__name__} takes up room, and is not said to be seen"


def test_every_recipe_tab_and_new_node_is_in_the_menus():
    from wild_heron.desk.commands.bind_commands import BIND_ACTIONS
    from wild_heron.desk.commands.new_nodes import NEW_IN_RIG, NEW_NODES
    from wild_heron.desk.rigs.recipes import RECIPES
    from wild_heron.desk.shell.action_list import ACTIONS
    from wild_heron.desk.timeline.tabs import TABS

    told = [each.action for each in (*BIND_ACTIONS, *NEW_NODES, *NEW_IN_RIG, *RECIPES.values())]
    told += [tab.action for tab in TABS if tab.action is not None]
    # The list adds the words that they are looked for by.
    listed = [replace(each, words="") for each in ACTIONS]
    assert [each.name for each in told if each not in listed] == []
    assert len({tab.name for tab in TABS}) == len(TABS)


@pytest.mark.parametrize("name", FAMILIES)
def test_an_ease_family_runs_from_0_to_1(name):
    import numpy as np

    for direction in ("in", "out", "in-out"):
        curve: UnitEase = unit_ease(Family(name, direction))
        assert curve(np.array([0.0, 1.0])) == pytest.approx([0.0, 1.0], abs=1e-3)


@pytest.mark.parametrize("kind", FORMATS, ids=lambda kind: kind.name)
def test_a_format_has_its_decoders(kind):
    from importlib import import_module

    if kind.becomes == "picture":
        decoder = import_module(f"wild_heron.files.decode.{kind.decoder}")
        assert callable(decoder.size)
        assert callable(decoder.read)
    if kind.layer_decoder:
        decoder = import_module(f"wild_heron.files.decode.{kind.layer_decoder}")
        assert callable(decoder.layers)
        assert callable(decoder.layer)
    others = [each for each in FORMATS if each is not kind and set(each.suffixes) & set(kind.suffixes)]
    assert others == [], f"{kind.name} shares endings with {[each.name for each in others]}"


@pytest.mark.parametrize("kind", get_args(Card), ids=lambda kind: kind.__name__)
def test_a_card_is_drawn_and_has_rows(kind):
    from wild_heron.desk.inspector.content_rows import CARD_ROWS
    from wild_heron.files.decode.cards import BODIES

    assert kind in BODIES, f"{kind.__name__} is not drawn in files/decode/cards.py"
    assert isinstance(kind.is_flat, bool), f"{kind.__name__} does not say whether it is flat"
    # Words have rows wherever they stand: on cards and as solid letters.
    assert kind in CARD_ROWS or kind is Text, f"{kind.__name__} has no rows in desk/inspector/content_rows.py"


MOST = {
    "Solid": 4,
    **{kind.__name__: 5 for kind in BIND_KINDS},
    # Every node's aim, and what rigs and edits do with aims, are about this one kind.
    "AimAt": 8,
    # Keys are lifted to a ride along a path, and lowered again.
    "RidePath": 6,
    # A tour moves its camera, gives it its lens, is played through, and is dissolved.
    "Tour": 9,
    # It goes out to other programs, too.
    "Light": 8,
    "crane": 2,
    "quart": 1,
    "openraster": 2,
    "CurvesPanel": 3,
}


@pytest.mark.parametrize("word", MOST)
def test_a_kind_is_told_in_few_files(word):
    """More would mean that something reads the kind instead of what is told of it."""
    found = files_that_name(word)
    assert 0 < len(found) <= MOST[word], found

"""Only what changed of a scene is sent, and the render process makes the same scene of it."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.gl.request import FrameRequest, ThroughLens
from wild_heron.process.client import RenderClient
from wild_heron.process.messages import ChangeScene, SetScene
from wild_heron.process.patches import ScenePatch, patch_between, patched
from wild_heron.process.publisher import Publisher

NODES = ("a", "b", "c", "d", "e")
COLOUR = "#104080"


def several() -> wh.Scene:
    scene = wh.Scene()
    for name in NODES:
        scene = wh.edits.add_node(scene, wh.Null(id=name, name=name))
        for axis in "xyz":
            scene = wh.edits.set_key(scene, name, f"position.{axis}", 0.0, 1.0)
            scene = wh.edits.set_key(scene, name, f"position.{axis}", 24.0, 2.0)
    return scene


def there(scene: wh.Scene, name: str) -> str:
    return name if name in scene else scene.nodes[0].id


EDITS = st.sampled_from(NODES).flatmap(
    lambda name: st.sampled_from([
        lambda s: wh.edits.set_key(s, there(s, name), "position.x", 7.5, 3.0),
        lambda s: wh.edits.set_key(s, there(s, name), "rotation.y", 12.0, 90.0),
        lambda s: wh.edits.remove_keys(s, [wh.edits.KeyRef(there(s, name), "position.x", 0.0)]),
        lambda s: wh.edits.move_keys(s, [wh.edits.KeyRef(there(s, name), "position.z", 24.0)], -30.0)[0],
        lambda s: wh.edits.set_value(s, there(s, name), "scale.x", 2.0),
        lambda s: wh.edits.rename(s, there(s, name), "another"),
        lambda s: wh.edits.add_node(s, wh.Light(id=wh.edits.fresh_id(s, "light"), name="Light")),
        lambda s: wh.edits.remove_nodes(s, [there(s, name)]) if len(s.nodes) > 2 else s,
        lambda s: wh.edits.move_in_list(s, there(s, name), 1),
        lambda s: msgspec.structs.replace(s, settings=msgspec.structs.replace(s.settings, background=COLOUR)),
        lambda s: wh.edits.lock_channel(s, there(s, name), "position.y", True),
    ])
)  # fmt: skip


@given(st.lists(EDITS, min_size=1, max_size=8))
def test_a_patch_makes_the_new_scene_of_the_old(edits):
    here = far = several()
    for edit in edits:
        now = edit(here)
        patch = patch_between(here, now)
        if patch is None:
            far = now
        else:
            sent = msgspec.msgpack.decode(msgspec.msgpack.encode(patch), type=ScenePatch)
            before, far = far, patched(far, sent)
            for node in far.nodes:
                if node.id in here and here.node(node.id) is now.node(node.id):
                    assert node is before.node(node.id)
        assert far == now
        here = now


def test_a_step_of_a_drag_sends_one_key():
    scene = several()
    moved, _ = wh.edits.move_keys(scene, [wh.edits.KeyRef("c", "position.x", 24.0)], 3.0)
    patch = patch_between(scene, moved)
    assert [each.node.id for each in patch.nodes] == ["c"]
    assert patch.nodes[0].node.channels == ()
    (sent,) = patch.nodes[0].changed
    assert (sent.channel.name, [key.frame for key in sent.channel.keys]) == ("position.x", [27.0])
    assert (sent.before, sent.after) == (1, 0)
    assert patch.rest is None
    assert patch.order is None


def test_a_patch_is_for_the_scene_it_was_taken_from():
    scene = several()
    patch = patch_between(scene, wh.edits.set_key(scene, "c", "position.x", 24.0, 9.0))
    with pytest.raises(KeyError):
        patched(wh.edits.remove_nodes(scene, ["c"]), patch)


def test_each_version_has_a_history_of_its_own():
    publisher, scene = Publisher(), several()
    moved = wh.edits.set_key(scene, "c", "position.x", 24.0, 9.0)
    assert isinstance(publisher.request(scene, "", 0, ()), SetScene)
    assert isinstance(publisher.request(scene, "", 1, ()), SetScene)
    change = publisher.request(moved, "", 0, ())
    assert isinstance(change, ChangeScene)
    assert patched(scene, change.patch) == moved
    assert publisher.whole(0).scene is moved
    assert publisher.whole(1).scene is scene


def test_a_process_that_does_not_have_the_scene_asks_for_the_whole(art):
    camera = wh.Camera(id="cam", name="Cam", channels=(wh.Channel("position.z", 10.0),))
    cards = tuple(
        wh.Picture(id=f"p{k}", name="P", artwork=wh.Solid("#c00000"), width=900, height=900) for k in range(3)
    )
    scene = wh.Scene(settings=wh.Settings(width=64, height=36), nodes=(camera, *cards), camera="cam")
    green = wh.edits.change_node(scene, "p2", artwork=wh.Solid("#00c000"))
    request = FrameRequest(0.0, ThroughLens("cam"), 64, 36)
    with RenderClient(slots=1) as client:
        client._publisher.request(scene, "", 0, ())  # Which never arrives.
        client.set_scene(green, None)
        seen = client.draw(request)
        assert np.array_equal(seen[18, 32, :3], (0, 192, 0))

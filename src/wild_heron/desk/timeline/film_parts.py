"""The objects that the film's tabs need besides the document."""

from typing import NamedTuple

from ..commands.actions import ActionTable
from ..commands.check_commands import CheckCommands
from ..commands.framing_commands import FramingCommands
from ..commands.live_switching import LiveSwitching
from ..commands.shot_commands import ShotCommands
from ..commands.sound_commands import SoundCommands
from ..commands.take_commands import TakeCommands
from ..pictures.small_pictures import SmallPictures
from ..state.playback import Playback


class FilmParts(NamedTuple):
    actions: ActionTable
    shots: ShotCommands
    framings: FramingCommands
    live: LiveSwitching
    sounds: SoundCommands
    small: SmallPictures
    playback: Playback
    takes: TakeCommands
    checks: CheckCommands

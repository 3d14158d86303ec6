"""What the tabs about the film need besides the document."""

from typing import NamedTuple

from ..commands.actions import ActionTable
from ..commands.checks import CheckCommands
from ..commands.framings import FramingCommands
from ..commands.live import LiveSwitching
from ..commands.shots import ShotCommands
from ..commands.sounds import SoundCommands
from ..commands.takes import TakeCommands
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

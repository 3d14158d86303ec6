"""What ``import wild_heron`` offers: the scene with everything that it is made of, and these."""

from . import edits as edits
from .edits.framings import keep_framing as keep_framing
from .edits.framings import play_through as play_through
from .edits.framings import update_framing as update_framing
from .evaluate import evaluate as evaluate
from .files.errors import FileError as FileError
from .files.project import load as load
from .files.project import save as save
from .scene import *

# Only now: a module of the scene has the same name.
from .evaluate import output as output  # isort: skip

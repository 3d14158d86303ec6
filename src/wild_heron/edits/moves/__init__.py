"""Moves: kept from a camera, changed, and put on a subject."""

from .changing import mirrored as mirrored
from .changing import reversed_ as reversed_
from .changing import stronger as stronger
from .keeping import keep as keep
from .putting import Placing as Placing
from .putting import put as put
from .subject import SubjectPlace as SubjectPlace
from .subject import subject_place as subject_place

"""The scene: frozen structs, and what they may hold.

Kinds of node, bind, span, artwork, solid, path and ground are offered by the modules that tell them.
"""

from .artwork import *
from .binds import *
from .channel import Channel as Channel
from .channel import Key as Key
from .channels import ChannelSpec as ChannelSpec
from .checks import Accepted as Accepted
from .checks import ChecksOfScene as ChecksOfScene
from .checks import LimitOfScene as LimitOfScene
from .checks import Subject as Subject
from .errors import LoopError as LoopError
from .errors import SceneError as SceneError
from .errors import UnknownNodeError as UnknownNodeError
from .events import *
from .film import *
from .formulas import FormulaError as FormulaError
from .grounds import *
from .guides import GUIDES as GUIDES
from .guides import MASK as MASK
from .guides import Guide as Guide
from .guides import Guides as Guides
from .inputs import Dial as Dial
from .inputs import Link as Link
from .labels import bind_label as bind_label
from .labels import bind_subject as bind_subject
from .model import Distance as Distance
from .model import Exposure as Exposure
from .model import Format as Format
from .model import LightSpace as LightSpace
from .model import LivePass as LivePass
from .model import Marker as Marker
from .model import NamedEase as NamedEase
from .model import Scene as Scene
from .model import Settings as Settings
from .model import main_format as main_format
from .movers import *
from .moving import is_moved as is_moved
from .moving import may_change as may_change
from .moving import moved_channels as moved_channels
from .nodes import *
from .paths import *
from .rates import STANDARD_RATES as STANDARD_RATES
from .rates import Rate as Rate
from .rates import seconds as seconds
from .rates import timecode as timecode
from .solids import *
from .sound import *
from .spans import *
from .specs import channel_or_default as channel_or_default
from .specs import spec as spec
from .specs import specs as specs
from .takes import *
from .types import UnitName as UnitName

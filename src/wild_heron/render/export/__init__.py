"""What goes out as pictures: movies, numbered frames and single ones, whole or not at all.

``kinds`` says what can be written, ``job`` what is asked for, ``running`` does it; ``movies`` and ``frames`` write.
"""

from .job import ExportJob as ExportJob
from .running import drawing_processes as drawing_processes
from .running import export as export

"""Every kind of work there is: whoever does work imports this."""

from . import judging, playing, searching
from .actions import files, imports

__all__ = ["files", "imports", "judging", "playing", "searching"]

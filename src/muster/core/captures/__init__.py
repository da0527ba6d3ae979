"""Captures: a scope's few seconds of samples, fast enough to see single cycles."""

from .capture import Capture
from .rms import RmsTrack, track_of
from .start import StartSeen, start_in

__all__ = ["Capture", "RmsTrack", "StartSeen", "start_in", "track_of"]

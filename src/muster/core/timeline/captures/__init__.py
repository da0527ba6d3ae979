"""Captures: a scope's few seconds of samples, fast enough to see single cycles."""

from .capture import Capture
from .features import CaptureFacts, read_capture
from .rms import RmsTrack, track_of
from .start import StartSeen, start_in

__all__ = ["Capture", "CaptureFacts", "RmsTrack", "StartSeen", "read_capture", "start_in", "track_of"]

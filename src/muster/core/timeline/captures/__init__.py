"""Captures: a scope's few seconds of samples, fast enough to see single cycles."""

from .capture import Capture
from .features import CaptureFeatures, read_capture
from .rms import RmsTrack, track_of
from .start import StartSeen, start_in

__all__ = ["Capture", "CaptureFeatures", "RmsTrack", "StartSeen", "read_capture", "start_in", "track_of"]

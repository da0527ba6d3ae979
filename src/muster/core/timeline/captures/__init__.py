"""Captures: a scope's few seconds of samples, fast enough to see single cycles."""

from .capture import Capture
from .features import CaptureFeatures, read_capture
from .rms import RmsTrack, track_of
from .start import CapturedStart, start_in

__all__ = ["Capture", "CaptureFeatures", "CapturedStart", "RmsTrack", "read_capture", "start_in", "track_of"]

"""Waveform files: COMTRADE in and out, CSV of samples in."""

from .reading import CaptureFile, read_capture_files
from .writing import comtrade_cff

__all__ = ["CaptureFile", "comtrade_cff", "read_capture_files"]

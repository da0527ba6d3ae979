"""Simulated instruments that speak the real protocols on loopback, all fed by one bench twin."""

from .rig import Rig, demo_rig
from .servers import StandIns, serve

__all__ = ["Rig", "StandIns", "demo_rig", "serve"]

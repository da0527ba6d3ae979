"""Drivers for real instruments over open protocols, behind one small interface: open, read, close.

Bytes are parsed without I/O; register maps and command tables are data.
Stand-ins that speak the same protocols on loopback, fed by the bench twin,
are in ``standins``.
"""

"""Instruments recorded into a session, in a process of their own."""

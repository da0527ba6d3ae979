"""The command line: serve, judge and read out without a browser, carry jobs in and out; a module a group of commands."""

from .main import main

__all__ = ["main"]

"""The trade's rules and arithmetic: frozen dataclasses and pure functions.

Nothing here knows Django, files or drawing. SI units inside, units in names.
"""

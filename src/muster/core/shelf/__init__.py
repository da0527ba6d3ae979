"""The shelf: planning figures for appliances and for kinds of source (grade D)."""

from .appliances import BOILER_PARTS, BY_SLUG, SHELF, ShelfLoad, find_on_shelf, from_load, slug_of
from .sources import SOURCE_BY_SLUG, SOURCE_SHELF, ShelfSource

__all__ = [
    "BOILER_PARTS",
    "BY_SLUG",
    "SHELF",
    "SOURCE_BY_SLUG",
    "SOURCE_SHELF",
    "ShelfLoad",
    "ShelfSource",
    "find_on_shelf",
    "from_load",
    "slug_of",
]

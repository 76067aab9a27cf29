"""Owns what a shop brings to every job: its parts and its own tables. Must not know any job."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import all_parts
from riktig.catalogue.model import Part
from riktig.standards.tables import OwnTable, own_tables


@dataclass(frozen=True, slots=True, kw_only=True)
class Shop:
    """All parts, those that Riktig ships and the shop's own, and the shop's own tables by name."""

    parts: tuple[Part, ...]
    tables: Mapping[str, OwnTable]


def shop_now() -> Shop:
    """Return the shop as its files were read.

    Raises:
        CatalogueError: the shop's own parts cannot be read.
        TableError: one of its tables cannot be used.
    """
    return Shop(parts=all_parts(), tables=own_tables())

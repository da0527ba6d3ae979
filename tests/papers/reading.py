"""A paper read as a stranger would: its text, its anchors and links, its workings, out of the file alone."""

from __future__ import annotations

from dataclasses import dataclass, field
from html.parser import HTMLParser


@dataclass
class ReadWorking:
    """A working as it stands in the file."""

    number: str
    formula: str = ""
    put_in: str = ""
    result: str = ""
    method: str = ""
    of: int = 0
    numbers: str = ""

    @property
    def rows(self) -> list[list[float]]:
        """The numbers that it is reached from, a list a row."""
        return [[float(number) for number in row.split()] for row in self.numbers.split("·") if row.strip()]


@dataclass
class Paper(HTMLParser):
    """What a file holds."""

    text: str
    ids: set[str] = field(default_factory=set)
    links: list[str] = field(default_factory=list)
    fetched: list[str] = field(default_factory=list)
    tags: list[str] = field(default_factory=list)
    workings: list[ReadWorking] = field(default_factory=list)
    said: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self._part = ""
        self.feed(self.text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        has = {name: value or "" for name, value in attrs}
        self.tags.append(tag)
        if "id" in has:
            self.ids.add(has["id"])
        if "href" in has:
            self.links.append(has["href"])
        if tag in ("img", "script", "link", "iframe", "source", "image", "use"):
            self.fetched += [has[name] for name in ("src", "href", "xlink:href") if name in has]
        classes = has.get("class", "").split()
        if tag == "tr" and "working" in classes:
            self.workings.append(ReadWorking(has.get("id", "")))
        if tag == "span" and "data-method" in has:
            self.workings[-1].method, self.workings[-1].of = has["data-method"], int(has["data-of"])
            self._part = "numbers"
            return
        self._part = next((part for part in ("formula", "put-in", "result") if tag == "td" and part in classes), "")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("td", "span"):
            self._part = ""

    def handle_data(self, data: str) -> None:
        self.said.append(data)
        if self._part and self.workings:
            name = self._part.replace("-", "_")
            setattr(self.workings[-1], name, getattr(self.workings[-1], name) + data)

    @property
    def words(self) -> str:
        """All that is read in it."""
        return " ".join(" ".join(self.said).split())

"""What a case costs a person: keys, pages and posts from *New job* to the verdict, counted while it is done."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from django.http import HttpResponse
from django.test import Client
from django.urls import reverse

from muster.records.models import Job

from .cases import FieldCase

HERE = Path(__file__).with_name("notes")
ENTER = 1


@dataclass
class Effort:
    """What was asked of a person so far."""

    client: Client
    keys: int = 0
    pages: int = 0
    posts: int = 0
    at: str = ""

    def look(self, url: str) -> None:
        """Open a page; one that comes back to itself is one page."""
        answer = self.client.get(url)
        assert answer.status_code == 200, url
        page = url.split("?")[0]
        self.pages += page != self.at
        self.at = page

    def say(self, url: str, fields: dict[str, str], *, typed: str, htmx: bool = False) -> HttpResponse:
        """Send what was typed; where it leads to a page, that is opened too."""
        headers = {"HX-Request": "true"} if htmx else {}
        answer = self.client.post(url, fields, headers=headers)
        assert answer.status_code in (200, 302), (url, answer.status_code)
        self.keys += len(typed) + ENTER
        self.posts += 1
        if answer.status_code == 302:
            self.look(answer.headers["Location"])
        return answer


def source_words(case: FieldCase) -> str:
    """The source of a case, as its notes describe it."""
    text = (HERE / f"{case.name.split()[0].lower()}.txt").read_text(encoding="utf-8")
    said = re.search(r"^Source: (.*)$", text, re.M)
    assert said is not None
    return said[1]


def typed_live(case: FieldCase, client: Client) -> Effort:
    """A case done page by page and line by line."""
    effort = Effort(client)
    effort.look(reverse("new-job"))
    name = case.name.split()[0]
    words = source_words(case)
    said = {"name": name, "system": case.supply, "outage_h": "24", "loads": "\n".join(case.loads), "source": words}
    effort.say(reverse("new-job"), said, typed="\n".join([name, *case.loads, words]))
    job = Job.objects.latest("pk")
    effort.look(reverse("bench", args=[job.pk]))
    for sitting in case.sittings:
        begun = {"protocol": sitting.protocol, "written_up": "on", "temp_c": "20"}
        answer = effort.say(reverse("bench", args=[job.pk]), begun, typed="")
        session = answer.headers["Location"]
        for line in sitting.lines:
            effort.say(f"{session}line/", {"line": line}, typed=line, htmx=True)
    effort.look(reverse("verdict", args=[job.pk]))
    return effort


def by_notes(case: FieldCase, client: Client) -> Effort:
    """A case pasted as notes."""
    text = (HERE / f"{case.name.split()[0].lower()}.txt").read_text(encoding="utf-8")
    effort = Effort(client)
    effort.look(reverse("notes"))
    effort.say(reverse("notes"), {"text": text, "do": "look"}, typed=text)
    effort.pages += 1  # the page that tells it back
    effort.say(reverse("notes"), {"text": text, "do": "take"}, typed="")
    return effort


def jotted(case: FieldCase) -> int:
    """The keys of the jotting itself: every load, the source and every line, each ended by Enter."""
    lines = [*case.loads, source_words(case), *(line for sitting in case.sittings for line in sitting.lines)]
    return sum(len(line) + ENTER for line in lines)


def figures(case: FieldCase) -> int:
    """How many figures the jotting holds."""
    lines = [*case.loads, *(line for sitting in case.sittings for line in sitting.lines)]
    return sum(len(re.findall(r"\d+(?:[.,:]\d+)*", line)) for line in lines)


def row(case: FieldCase, live: Effort, pasted: Effort) -> str:
    """A row of the table in docs/effort.md."""
    name, title = case.name.split(maxsplit=1)
    told = (jotted(case), live.keys, figures(case), live.pages, live.posts, pasted.pages, pasted.posts)
    return f"| {name} | {title} | " + " | ".join(str(count) for count in told) + " |"

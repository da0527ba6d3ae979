"""Photos at the entries they belong to: small, placeless, sealed, carried with the job."""

from __future__ import annotations

import io
from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse
from PIL import Image

from muster.core.errors import MusterError, Refused
from muster.formats.datapackage import write_datapackage
from muster.formats.jobzip import read_package
from muster.formats.jobzip_out import write_package
from muster.formats.photos import MOST_PX, cleaned_photo, kept_photo
from muster.formats.seals import holds
from muster.records import bridge
from muster.records.actions import jobs, photos, sessions
from muster.records.models import SessionRow

GPS, ORIENTATION, MAKE = 0x8825, 0x0112, 0x010F


def by_phone(width: int = 3000, height: int = 1500, turned: bool = True) -> bytes:
    """A picture as a phone sends it: lying on its side, with place and camera in it, red at its left end."""
    image = Image.new("RGB", (width, height), "white")
    image.paste("red", (0, 0, width // 4, height))
    exif = Image.Exif()
    exif[MAKE] = "a telephone"
    exif[ORIENTATION] = 6 if turned else 1
    exif.get_ifd(GPS)[1] = "N"
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif)
    return out.getvalue()


def test_a_photo_is_kept_upright_small_and_without_place_or_camera() -> None:
    photo = cleaned_photo(by_phone())
    image = Image.open(io.BytesIO(photo.data))
    assert image.size == (photo.width, photo.height) == (MOST_PX // 2, MOST_PX)
    assert not image.getexif()
    assert b"telephone" not in photo.data
    red, green, _ = image.convert("RGB").getpixel((500, 100))  # type: ignore[misc]
    assert red > 200 > 60 > green, "what lay at the left stands on top"
    assert kept_photo(photo.data) == photo


@pytest.mark.parametrize("data", [b"", b"no photo", by_phone()[:400], b"\xff\xd8\xff" + b"\x00" * 50])
def test_what_is_no_photo_is_refused_in_one_line(data: bytes) -> None:
    with pytest.raises(MusterError, match="no photo that can be read; a photo as JPEG, PNG or WebP"):
        cleaned_photo(data)


def test_a_photo_stands_at_its_entry_or_makes_a_note_of_its_own(ladder: SessionRow, who: AbstractUser) -> None:
    entry = sessions.log_line(ladder, "238v 2.9kw", who)
    assert photos.take_photo(ladder, by_phone(), who, entry, "meter").entry == entry
    alone = photos.take_photo(ladder, by_phone(), who, caption="nameplate")
    assert alone.entry.seq == entry.seq + 1
    assert alone.entry.raw == "nameplate"
    assert photos.photo_path(alone.sha256).stat().st_size > photos.photo_path(alone.sha256, thumb=True).stat().st_size


def test_the_seal_falls_with_another_photo_and_takes_no_more(ladder: SessionRow, who: AbstractUser) -> None:
    shown = photos.take_photo(ladder, by_phone(), who, caption="meter")
    removed = photos.take_photo(ladder, by_phone(400, 300), who)
    photos.put_away_photo(removed, who)
    sessions.close_session(ladder)
    record = bridge.record_of(ladder)
    assert holds(record)
    assert [photo.sha256 for photo in record.photos] == [shown.sha256]
    assert not holds(replace(record, photos=()))
    assert not holds(replace(record, photos=(replace(record.photos[0], sha256="0" * 64),)))
    assert not holds(replace(record, photos=(replace(record.photos[0], caption="another"),)))
    for change in (
        lambda: photos.take_photo(ladder, by_phone(), who),
        lambda: photos.put_away_photo(shown, who),
        lambda: photos.name_photo(shown, "other", who),
    ):
        with pytest.raises(Refused, match="sealed"):
            change()


def test_photos_travel_with_the_job_and_a_changed_one_is_refused(ladder: SessionRow, who: AbstractUser) -> None:
    photos.take_photo(ladder, by_phone(), who, caption="meter")
    sessions.close_session(ladder)
    package = jobs.write_out(ladder.source.job)
    data = write_package(package)
    again = jobs.read_in(read_package(data), who)
    (kept,) = SessionRow.objects.get(source__job=again).photo_rows.all()
    assert (kept.caption, photos.photo_of(kept)) == ("meter", next(iter(package.photos.values())))
    assert write_package(jobs.write_out(again)) == data
    other = replace(package, photos={name: cleaned_photo(by_phone(400, 300)) for name in package.photos})
    with pytest.raises(MusterError, match="changed after it was taken"):
        read_package(write_package(other))
    assert b"data/photo-1-1.jpg" in write_datapackage(package, ())


def test_a_photo_whose_file_is_gone_is_said_and_not_passed_over(ladder: SessionRow, who: AbstractUser) -> None:
    row = photos.take_photo(ladder, by_phone(500, 200), who)
    photos.photo_path(row.sha256).unlink()
    with pytest.raises(MusterError, match="its file is gone"):
        jobs.write_out(ladder.source.job)


def test_taken_on_the_bench_it_stands_in_the_record_and_can_be_named_removed_and_put_back(
    ladder: SessionRow, who: AbstractUser, client: Client
) -> None:
    client.force_login(who)
    entry = sessions.log_line(ladder, "238v 2.9kw", who)
    at = [ladder.source.job.pk, ladder.pk]
    bench = client.post(
        reverse("photos", args=at), {"photo": io.BytesIO(by_phone()), "entry": entry.pk}, headers={"HX-Request": "true"}
    )
    (row,) = ladder.photo_rows.all()
    small = reverse("picture", args=[*at, row.pk, "small"])
    assert (bench.status_code, small in bench.content.decode()) == (200, True)
    assert client.get(small).headers["Content-Type"] == "image/jpeg"
    refused = client.post(reverse("photos", args=at), {"photo": io.BytesIO(b"words")}, headers={"HX-Request": "true"})
    assert (refused.status_code, refused.headers["HX-Retarget"]) == (422, "#refused")
    assert client.post(reverse("photos", args=at), {}).status_code == 422
    client.post(reverse("photo-name", args=[*at, row.pk]), {"caption": "display at full load"})
    assert "display at full load" in client.get(reverse("photo", args=[*at, row.pk])).content.decode()
    client.post(reverse("photo-away", args=[*at, row.pk]))
    assert small not in client.get(reverse("session", args=at)).content.decode()
    assert "1 removed" in client.get(reverse("photos", args=at)).content.decode()
    client.post(reverse("photo-away", args=[*at, row.pk]))
    assert small in client.get(reverse("session", args=at)).content.decode()

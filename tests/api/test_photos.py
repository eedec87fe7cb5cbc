"""Photos: fit to be kept, without where they were taken, once each; and with the job in its archive."""

import io
import json
import socket
import threading
import time
import unittest
import uuid
import zipfile
from typing import Any

import uvicorn
from PIL import ExifTags, Image

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.demo import DEMO_ID
from hydrarch.formats import archive
from hydrarch.formats.archive import read_archive, write_archive
from hydrarch.formats.explained import BadFile
from hydrarch.formats.photos import LONGEST, develop
from tests.api.client import WithClient


def photo(wide: int = 2400, high: int = 1200, kind: str = "JPEG", turned: int = 1) -> bytes:
    """As a phone takes it: with the maker, the place (56° 30' S, 12° 15' E) and how it was held; red on its left half,
    blue on its right.
    """
    image = Image.new("RGB", (wide, high), (200, 20, 20))
    image.paste((20, 20, 200), (wide // 2, 0, wide, high))
    exif = Image.Exif()
    exif[ExifTags.Base.Make] = "Secret Camera"
    exif[ExifTags.Base.Orientation] = turned
    exif.get_ifd(ExifTags.IFD.GPSInfo).update({1: "S", 2: (56.0, 30.0, 0.0), 3: "E", 4: (12.0, 15.0, 0.0)})
    out = io.BytesIO()
    image.save(out, kind, exif=exif)
    return out.getvalue()


class Developing(unittest.TestCase):
    """What is kept of a photo."""

    def test_nothing_but_the_picture(self) -> None:
        """Sized down and upright; neither place nor maker stays in the file, and the place is told only where that is
        said.
        """
        for kind in ("JPEG", "PNG", "WEBP"):
            with self.subTest(kind=kind):
                found = develop(photo(kind=kind))
                self.assertEqual((found.wide, found.high, found.place), (LONGEST, LONGEST // 2, None))
                self.assertNotIn(b"Secret", found.body)
                with Image.open(io.BytesIO(found.body)) as image:
                    self.assertEqual(
                        (image.format, image.size, dict(image.getexif())), ("JPEG", (LONGEST, LONGEST // 2), {})
                    )
        with_place = develop(photo(), place=True)
        self.assertEqual(with_place.place, (-56.5, 12.25))
        self.assertNotIn(b"Secret", with_place.body)

    def test_held_upright(self) -> None:
        """Held on its side (orientation 6, turned a quarter clockwise to be seen: Exif 2.3), what was left is
        on top.
        """
        found = develop(photo(turned=6))
        self.assertEqual((found.wide, found.high), (LONGEST // 2, LONGEST))
        with Image.open(io.BytesIO(found.body)) as image:
            top, bottom = image.getpixel((400, 100)), image.getpixel((400, 1500))
        assert isinstance(top, tuple)
        assert isinstance(bottom, tuple)
        self.assertGreater(top[0], 150)
        self.assertGreater(bottom[2], 150)

    def test_a_small_one_stays_small(self) -> None:
        """Nothing is blown up."""
        self.assertEqual((develop(photo(40, 30)).wide, develop(photo(40, 30)).high), (40, 30))

    def test_what_is_no_photo(self) -> None:
        """Text, a picture of another kind, half a photo, and one that would swell are each refused in words."""
        huge = io.BytesIO()
        Image.new("1", (9000, 9000)).save(huge, "PNG")
        gif = io.BytesIO()
        Image.new("P", (4, 4)).save(gif, "GIF")
        for body, says in (
            (b"hello", "no photo"),
            (b"", "no photo"),
            (gif.getvalue(), "no photo"),
            (photo()[:3000], "broken"),
            (huge.getvalue(), "60 million"),
            (b"<svg onload='alert(1)'/>", "no photo"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(BadFile, says):
                develop(body)


class Photos(WithClient):
    """At the API."""

    def send(self, body: bytes, job: str = DEMO_ID, **more: Any) -> Any:
        """Send a photo of the first joint."""
        asked = {"id": str(uuid.uuid4()), "about": "R1a~1", "by": "Rowan", "at": time.time(), **more}
        return self.client.post(f"/api/jobs/{job}/photos", params=asked, content=body)

    def test_kept_once(self) -> None:
        """Sent twice it is kept once, as it was the first time; it is listed, shown, and taken out."""
        name = str(uuid.uuid4())
        first = self.send(photo(), id=name, note="depth mark").json()
        again = self.send(photo(200, 200), id=name, note="another").json()
        self.assertEqual(first, again)
        self.assertEqual(
            (first["note"], first["about"], first["north"], first["wide"]), ("depth mark", "R1a~1", None, LONGEST)
        )
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}/photos").json(), [first])
        shown = self.client.get(f"/api/jobs/{DEMO_ID}/photos/{name}")
        self.assertEqual(shown.headers["content-type"], "image/jpeg")
        self.assertEqual(self.client.delete(f"/api/jobs/{DEMO_ID}/photos/{name}").status_code, 204)
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/photos/{name}"), 404, "not-there", "photo")

    def test_refused_in_words(self) -> None:
        """What is no photo, has no id or no name, or is of no job, is refused, and nothing is kept."""
        self.refused(self.send(b"hello"), 422, "bad-file", "JPEG, PNG and WebP can")
        self.refused(self.send(photo(), id="../../x"), 422, "invalid", "id")
        self.refused(self.send(photo(), by=""), 422, "invalid", "by")
        self.refused(self.send(photo(), job="nowhere"), 404, "not-there", "nowhere")
        self.refused(self.send(b"x" * 5_000_001), 413, "too-large", "5 MB")
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}/photos").json(), [])

    def test_there_and_back(self) -> None:
        """A job's archive comes in as it went out: plan, record and every photo, byte for byte; and its archive is the
        same file.
        """
        for n in range(3):
            self.assertEqual(self.send(photo(300 + n, 200), note=f"no. {n}", place=n == 1).status_code, 201)
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/archive")
        self.assertEqual(whole.headers["content-type"], "application/zip")
        back = self.client.post("/api/import", content=whole.content).json()["id"]
        listed = [self.client.get(f"/api/jobs/{job}/photos").json() for job in (DEMO_ID, back)]
        self.assertEqual(len(listed[0]), 3)
        self.assertEqual(listed[0], listed[1])
        self.assertEqual(sum(p["north"] is not None for p in listed[1]), 1)
        self.assertEqual(self.client.get(f"/api/jobs/{back}/export/archive").content, whole.content)

    def test_packed_again_by_a_desktop(self) -> None:
        """Unpacked to a folder and packed again, with what desktops put beside, it comes in as it was; what people read
        in it is there, and is not read back.
        """
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/archive").content
        with zipfile.ZipFile(io.BytesIO(whole)) as packed:
            names = packed.namelist()
            again = io.BytesIO()
            with zipfile.ZipFile(again, "w") as out:
                out.writestr("meadow line/", b"")
                for name in names:
                    out.writestr(f"meadow line/{name}", b"changed" if "readable" in name else packed.read(name))
                for name in (
                    "meadow line/.DS_Store",
                    "__MACOSX/meadow line/._job.hydrarch.json",
                    "meadow line/Thumbs.db",
                ):
                    out.writestr(name, b"x")
        self.assertLessEqual(
            {f"readable/{n}" for n in ("README.txt", "as-laid.pdf", "as-laid.csv", "parts.csv", "cuts.csv")}, set(names)
        )
        back = self.client.post("/api/import", content=again.getvalue())
        self.assertEqual(back.status_code, 201, back.text)
        self.assertEqual(back.json()["plan"], self.client.get(f"/api/jobs/{DEMO_ID}").json()["plan"])

    def test_archives_that_are_none(self) -> None:
        """A name that leads elsewhere, a file that swells, a photo that is none, one that is missing: refused whole,
        and no job appears.
        """
        job = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").text
        row = {"id": str(uuid.uuid4()), "about": "R1", "by": "Ash", "at": 1.7e9}

        def zipped(files: dict[str, str | bytes]) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
                for name, body in files.items():
                    made.writestr(name, body)
            return out.getvalue()

        listed = json.dumps([row])
        before = len(self.client.get("/api/jobs").json())
        swollen = zipped(
            {"job.hydrarch.json": job, "photos.json": listed, f"photos/{row['id']}.jpg": b"\0" * 210_000_000}
        )
        for body, says in (
            (zipped({"job.hydrarch.json": job, "../../etc/cron.d/x": "x"}), "../../etc/cron.d/x"),
            (zipped({"readme.txt": "x"}), "not of a Hydrarch job"),
            (zipped({"job.hydrarch.json": job, "photos.json": listed}), "is missing"),
            (zipped({"job.hydrarch.json": job, "photos.json": listed, f"photos/{row['id']}.jpg": b"x"}), "no photo"),
            (zipped({"job.hydrarch.json": job, "photos.json": json.dumps([row, row])}), "share an id"),
            (zipped({"job.hydrarch.json": job, "photos.json": json.dumps([{**row, "id": "../x"}])}), "photos.json"),
            (zipped({"job.hydrarch.json": "milk"}), "not a JSON file"),
            (swollen, "would swell"),
            (zipped({"job.hydrarch.json": job})[:900], "broken"),
        ):
            with self.subTest(says=says):
                self.refused(self.client.post("/api/import", content=body), 422, "bad-file", says)
        self.assertEqual(len(self.client.get("/api/jobs").json()), before)

    def test_what_says_less_than_it_is(self) -> None:
        """An archive whose list of files lies about their length is not believed."""
        honest = write_archive("{}", [])
        with zipfile.ZipFile(io.BytesIO(honest)) as whole:
            self.assertEqual(whole.namelist(), [archive._JOB, archive._LIST])
        self.assertEqual(read_archive(honest), (b"{}", ()))
        lying = honest.replace(
            (2).to_bytes(4, "little") + b"\x11\x00\x00\x00", (1).to_bytes(4, "little") + b"\x11\x00\x00\x00"
        )
        with self.assertRaises(BadFile):
            read_archive(lying.replace(b"job.hydrarch.json", b"job.hydrarch.jsoN", 1))


class HalfSent(WithClient):
    """A body that stops coming."""

    def test_it_is_given_up(self) -> None:
        """A photo of which half is sent and no more is let go after a while, its connection closed, and the server
        answers others.
        """
        with socket.socket() as listener:
            listener.bind(("127.0.0.1", 0))
            port = listener.getsockname()[1]
            app = create_app(self.store, None, Settings(patience=0.4))
            server = uvicorn.Server(uvicorn.Config(app, log_level="critical"))
            thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
            thread.start()
            while not server.started:
                time.sleep(0.05)
            with socket.create_connection(("127.0.0.1", port), 60) as half:
                asked = f"id={uuid.uuid4()}&about=R1&by=Ash&at=1700000000"
                head = (
                    f"POST /api/jobs/{DEMO_ID}/photos?{asked} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: "
                    "9000\r\n\r\n"
                )
                half.sendall(head.encode() + b"\xff\xd8\xff")
                while half.recv(65536):  # it would come to no end, and time out, were it held without end
                    pass
            self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}/photos").json(), [])
            server.should_exit = True
            thread.join(10)


if __name__ == "__main__":
    unittest.main()

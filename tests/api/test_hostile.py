"""Files and figures made to hurt: each is answered or refused in words, in its time and memory, and stops
nobody else.
"""

import base64
import io
import json
import struct
import threading
import time
import zipfile
import zlib
from typing import Any
from unittest.mock import patch

from openpyxl import Workbook

from hydrarch.api.foreign import SECONDS
from hydrarch.demo import DEMO_ID
from tests.api.client import WithClient


def png(wide: int, high: int) -> bytes:
    """A picture of one colour, a bit a pixel: small as a file, large once it is read."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    rows = zlib.compress(b"\0" * ((wide // 8 + 1) * high), 9)
    head = struct.pack(">IIBBBBB", wide, high, 1, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def dxf(things: str, blocks: str = "") -> bytes:
    """A drawing of these things and blocks."""
    return (f"0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{things}0\nENDSEC\n0\nEOF\n").encode()


def zipped(name: str, text: str) -> bytes:
    """An archive with one file."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as whole:
        whole.writestr(name, text)
    return out.getvalue()


def _swapped(sheet: str) -> bytes:
    """A workbook whose first sheet is that text."""
    book, out = io.BytesIO(), io.BytesIO()
    Workbook().save(book)
    with zipfile.ZipFile(book) as good, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for entry in good.namelist():
            made.writestr(entry, sheet if entry.endswith("sheet1.xml") else good.read(entry))
    return out.getvalue()


def line(x: str) -> bytes:
    """GeoJSON with one line that begins there."""
    return (
        '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":'
        f'{{"type":"LineString","coordinates":[[{x},1],[2,2]]}}}}]}}'
    ).encode()


_BLOCK = "0\nBLOCK\n2\nB\n70\n0\n10\n0\n20\n0\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n1\n21\n1\n0\nENDBLK\n"
_SELF = "0\nBLOCK\n2\nB\n70\n0\n10\n0\n20\n0\n0\nINSERT\n2\nB\n10\n1\n20\n1\n0\nENDBLK\n"
_SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="{}"><path d="M0 0L1 1"/></svg>'
_LAUGHS = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">' + "".join(
    f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True)
)
PICTURES: dict[str, bytes] = {
    "comments that never end": b"999 \n" * 40 + b"x",
    "a circle wider than the world": dxf("0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n1e15\n"),
    "nine million inserts": dxf("0\nINSERT\n2\nB\n10\n0\n20\n0\n70\n3000\n71\n3000\n44\n1\n45\n1\n", _BLOCK),
    "a block in itself": dxf("0\nINSERT\n2\nB\n10\n0\n20\n0\n", _SELF),
    "an arc of no radius": dxf("0\nARC\n8\n0\n10\n0\n20\n0\n40\n0\n50\n0\n51\n360\n"),
    "coordinates that are no numbers": dxf("0\nLINE\n8\n0\n10\nnan\n20\ninf\n11\n1\n21\n1\n"),
    "a drawing cut off": dxf("0\nLINE\n8\n0\n10\n0\n")[:40],
    "sixty megapixels": png(20000, 3000),
    "a png of nothing": png(0, 0),
    "half a png": png(10, 10)[:20],
    "a png that lies": b"\x89PNG\r\n\x1a\n" + b"\0" * 100,
    "half a jpeg": b"\xff\xd8\xff\xe0" + b"\0" * 50,
    "a billion laughs": f'{_LAUGHS}]><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1"><text>&i;</text></svg>'.encode(),
    "a file of its own": b'<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><svg viewBox="0 0 1 1">&a;</svg>',
    "a script": b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1"><script>alert(1)</script></svg>',
    **{
        f"viewBox {v}": _SVG.format(v).encode()
        for v in ("0 0 1e400 1", "0 0 nan 1", "a b c d", "0 0 0 0", "0,0,,1", "1e308 0 1e308 1")
    },
    **{f"a line from {x[:6]}": line(x) for x in ("9" * 400, "NaN", "1e999", '"x"', "true", "null", "[1]", "{}")},
    "lists in lists": b'{"type":"LineString","coordinates":' + b"[" * 90_000 + b"]" * 90_000 + b"}",
    "a collection of itself": json.dumps(
        {"type": "GeometryCollection", "geometries": [{"type": "GeometryCollection"}]}
    ).encode(),
    "a byte": b"\0",
    "half letters": "\ud800".encode("utf-8", "surrogatepass"),
    "utf-16": "0\nSECTION".encode("utf-16"),
    "a pdf": b"%PDF-1.7\n%%EOF",
}
ARCHIVES: dict[str, bytes] = {
    "a job of ninety megabytes": zipped("job.hydrarch.json", '{"a":"' + "x" * 90_000_000 + '"}'),
    "lists in lists": zipped("job.hydrarch.json", "[" * 1_000_000),
    "no job": zipped("notes.txt", "hello"),
    "up and away": zipped("../../etc/passwd", "x"),
    "cut off": zipped("job.hydrarch.json", "{}")[:40],
    "numbers of a million letters": zipped("job.hydrarch.json", '{"format":' + "9" * 1_000_000 + "}"),
    "a zip of nothing": b"PK\x03\x04" + b"\0" * 40,
}
FIGURES: tuple[Any, ...] = (
    1e308,
    -1e308,
    5e-324,
    10**400,
    -(10**400),
    "NaN",
    "1e999",
    "a\x00b",
    "9" * 400,
    [],
    {},
    True,
    None,
)


class Hostile(WithClient):
    """Each is answered within its time, with a problem of ours where it is refused."""

    def setUp(self) -> None:
        """With less patience than a served one has, so that what comes to no end is waited for a little."""
        super().setUp()
        self.enterContext(patch("hydrarch.api.foreign.SECONDS", 3.0))

    def answered(self, name: str, path: str, **sent: Any) -> None:
        """An answer or a problem document of ours, in good time."""
        with self.subTest(name):
            since = time.monotonic()
            answer = self.client.post(path, **sent)
            self.assertIn(answer.status_code, (200, 201, 404, 409, 413, 415, 422), f"{name}: {answer.text[:300]}")
            if answer.status_code >= 400:
                self.assertEqual(answer.headers["content-type"], "application/problem+json")
                self.assertTrue(answer.json()["detail"])
            # the limit is the program's own; what it is measured by here is many times that, on a busy machine
            self.assertLess(time.monotonic() - since, 6 * SECONDS)

    def test_pictures(self) -> None:
        """Drawings, plans and photos of others."""
        for name, body in PICTURES.items():
            self.answered(name, "/api/pictures", content=body)
        photo = {"id": "0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10", "about": "R1", "by": "Ash", "at": 1.7e9}
        for name in ("sixty megapixels", "half a png", "half a jpeg", "a byte", "a script"):
            self.answered(name, f"/api/jobs/{DEMO_ID}/photos", params=photo, content=PICTURES[name])
        bell = {**photo, "note": "a\x07b"}
        self.answered("a bell in a note", f"/api/jobs/{DEMO_ID}/photos", params=bell, content=png(8, 8))
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}/export/archive").status_code, 200)

    def test_archives_and_job_files(self) -> None:
        """Zips, and what is in them as a file by itself."""
        for name, body in ARCHIVES.items():
            self.answered(name, "/api/import", content=body)
        for name, text in {
            "lists in lists": "[" * 100_000,
            "a number of a million letters": "9" * 1_000_000,
            "not a number": '{"format": NaN}',
            "half letters": '{"format": "\\ud800"}',
            "nothing": "",
            "a word": "null",
        }.items():
            self.answered(name, "/api/import", content=text.encode())

    def test_workbooks(self) -> None:
        """What says it is a workbook: another archive, one sheet that unpacks to 60 MB, a tower of entities, no end."""
        sheet = '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>{}</sheetData></worksheet>'
        tower = '<!DOCTYPE a [<!ENTITY a "aaaaaaaaaa">' + "".join(
            f'<!ENTITY {chr(98 + n)} "{10 * ("&" + chr(97 + n) + ";")}">' for n in range(9)
        )
        bodies = {
            "another archive": zipped("a.txt", "name,east,north\n"),
            "a bomb": _swapped(sheet.format('<row r="1"><c r="A1"><v>1</v></c></row>' * 1_500_000)),
            "a tower": _swapped(tower + "]>" + sheet.format("<row><c t='inlineStr'><is><t>&j;</t></is></c></row>")),
            "a far cell": _swapped(sheet.format('<row r="1048576"><c r="XFD1048576"><v>1</v></c></row>')),
            "no end": _swapped(sheet.format("<row>")),
            "nothing behind the mark": b"PK\x03\x04",
            "the old form": b"\xd0\xcf\x11\xe0" + b"\0" * 600,
        }
        for name, body in bodies.items():
            told = {"data": base64.b64encode(body).decode()}
            self.answered(name, "/api/prices", json=told)
            self.answered(name, "/api/measures/points", json=told)

    def test_figures_and_names(self) -> None:
        """Fields of forms, conditions of a job, points, curves and weather."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        for value in FIGURES:
            self.answered(f"name {value!r:.20}", "/api/jobs", content=json.dumps({"name": value}).encode())
            for field in ("kerf", "keep", "spares", "frost", "altitude"):
                conditions = {**found["plan"]["conditions"], field: value}
                body = {"revision": found["revision"], "plan": {**found["plan"], "conditions": conditions}}
                with self.subTest(field=field, value=str(value)[:20]):
                    answer = self.client.put(f"/api/jobs/{DEMO_ID}/plan", content=json.dumps(body).encode())
                    self.assertLess(answer.status_code, 500, answer.text[:300])
                    if answer.status_code == 200:
                        found = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        for text in (
            "9" * 400 + ",1,2\n",
            "1e400,1,1\n",
            "nan,2,2\n",
            "\0\n",
            "a" * 100_000,
            "east,east,east\n1,2,3\n",
        ):
            self.answered(f"points {text[:8]!r}", "/api/measures/points", json={"text": text})
            self.answered(f"curve {text[:8]!r}", "/api/measures/curve", json={"text": text[:10_000]})
            self.answered(f"weather {text[:8]!r}", "/api/weather", json={"csv": text[:10_000], "hours": 24, "seed": 1})

    def test_others_are_served_meanwhile(self) -> None:
        """While files are read that come to no end, jobs open as ever."""
        done = threading.Event()

        def hurts() -> None:
            while not done.is_set():
                self.client.post("/api/pictures", content=PICTURES["a circle wider than the world"])

        both = [threading.Thread(target=hurts) for _ in range(2)]
        for one in both:
            one.start()
        try:
            for _ in range(15):
                self.assertEqual(self.client.get("/api/jobs").status_code, 200)
        finally:
            done.set()
            for one in both:
                one.join(60)
        self.assertFalse(any(one.is_alive() for one in both))

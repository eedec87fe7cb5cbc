"""Tables as surveyors, makers, shops, loggers and weather stations write them: each is understood, or asked about.

The files are made here; their forms are common practice of such programs, in several countries' ways of writing.
"""

import csv
import io
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import WantedColumn, read_table
from hydrarch.core.base.units import FOOT, GALLON, PSI
from hydrarch.core.derivation.chain import derive
from hydrarch.demo import thistledown
from hydrarch.devices.gauge import read_log
from hydrarch.devices.weather import read_weather
from hydrarch.formats.curvefile import read_curve
from hydrarch.formats.explained import BadFile
from hydrarch.formats.pointsfile import read_points
from hydrarch.formats.tables import (
    Figure,
    WrittenTable,
    csv_of,
    cuts_table,
    parts_table,
    prices_csv,
    prices_table,
    read_nozzles,
    read_prices,
    workbook_of,
)

PLAIN = (("Gate", 1.5, -2.0, 210.25), ("Oak", 30.0, 4.0, 211.0))
UTF = "Zürich,1.5,-2,210.25\n"

POINTS: tuple[tuple[bytes | str, str, tuple[tuple[str, float, float, float | None], ...]], ...] = (
    ("name,east,north,level\nGate,1.5,-2,210.25\nOak,30,4,211\n", "metric", PLAIN),
    ("Punkt;Rechtswert;Hochwert;Höhe\nGate;1,5;-2;210,25\nOak;30;4;211\n", "metric", PLAIN),
    ("Punkt;Rechtswert;Hochwert;Höhe\r\nGate;1,5;-2;210,25\r\nOak;30;4;211\r\n".encode("cp1252"), "metric", PLAIN),
    ("PT\tE [m]\tN [m]\tRL [m]\nGate\t1.5\t-2\t210.25\nOak\t30\t4\t211\n".encode("utf-16"), "us", PLAIN),
    ("id|x|y|z\rGate|1.5|-2|210.25\rOak|30|4|211\r", "metric", PLAIN),
    (
        "# from the instrument\n# 24 November\nname,easting,northing,elev\nGate,1.5,-2,210.25\nOak,30,4,211\n",
        "metric",
        PLAIN,
    ),
    ("Job 12\nRod 2.00\nname,easting,northing,elev\nGate,1.5,-2,210.25\nOak,30,4,211\n", "metric", PLAIN),
    ("name,east,north,level\n,m,m,m\nGate,1.5,-2,210.25\nOak,30,4,211\n", "us", PLAIN),
    ("name,east_m,north_m,level\nGate,1.5,-2,210.25\nOak,30,4,211\n", "us", PLAIN),  # of metres beside metres
    ("name,east,north,code,level\nGate,1.5,-2,GT,210.25\nOak,30,4,TR,211\n", "metric", PLAIN),
    ("name east north level\nGate 1.5 -2 210.25\nOak 30 4 211\n", "metric", PLAIN),
    ("name,east (ft),north (ft),level (ft)\nGate,10,20,30\n", "metric", (("Gate", 10 * FOOT, 20 * FOOT, 30 * FOOT),)),
    ("name,east,north,level\nGate,6 ft 3 in,20,30\n", "us", (("Gate", 6.25 * FOOT, 20 * FOOT, 30 * FOOT),)),
    ('name,east,north\n"Gate, old",1,2\n', "metric", (("Gate, old", 1.0, 2.0, None),)),
    ('name,east,north\nA,"1,200",7.5\nB,"1,210",8\n', "metric", (("A", 1200.0, 7.5, None), ("B", 1210.0, 8.0, None))),
)
"""Points: a file, the person's units, and what is in it (m)."""

CURVES: tuple[tuple[bytes | str, str, tuple[tuple[float, float], ...]], ...] = (
    ("Q [m3/h];H [m]\n0;45\n3,6;42,5\n10,8;26\n", "us", ((0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0))),
    ("H [m];Q [m³/h]\n45;0\n42,5;3,6\n26;10,8\n", "metric", ((0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0))),
    (
        "flow_gpm,head_ft,efficiency\n0,100,0\n10,90,50\n20,60,60\n",
        "metric",
        ((0.0, 100 * FOOT), (10 * GALLON / 60, 90 * FOOT), (20 * GALLON / 60, 60 * FOOT)),
    ),
    (
        "GPM\tft\n0\t100\n10\t90\n20\t60\n",
        "metric",
        ((0.0, 100 * FOOT), (10 * GALLON / 60, 90 * FOOT), (20 * GALLON / 60, 60 * FOOT)),
    ),
    (
        "Pump 3, as new\nFörderstrom;Förderhöhe\nl/s;m\n0;45\n1;42,5\n3;26\n",
        "us",
        ((0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0)),
    ),
    (
        "Q (l/min),p (kPa)\n0,441\n60,417\n180,255\n",
        "metric",
        ((0.0, 441e3 / 9797.6), (1e-3, 417e3 / 9797.6), (3e-3, 255e3 / 9797.6)),
    ),
    ("0 45\n60 42.5\n180 26\n", "metric", ((0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0))),
)
"""Pump curves: a file, the person's units, and its points (m³/s, m); 9797.6 N/m³ is water at 15 °C, 999.1 kg/m³."""

LOGS: tuple[tuple[bytes | str, tuple[tuple[float, float, float | None], ...]], ...] = (
    ("minutes,bar,celsius\n0,6,12\n5,5.9,\n", ((0, 6e5, 285.15), (300, 5.9e5, None))),
    ("seconds;mbar\n0;6000,5\n60;5999,0\n", ((0, 600050.0, None), (60, 599900.0, None))),
    (
        "Logger 7\nSerial 0012\nDate;Time;Pressure [bar];Temp [°C]\n24.11.2026;06:00:00;6,0;12,0\n24.11.2026;06:01:00;5,9;12,1\n",
        ((0, 6e5, 285.15), (60, 5.9e5, 285.25)),
    ),
    (
        "timestamp,pressure_psi,temperature_fahrenheit\n2026-11-24T06:00:00,87,50\n2026-11-24T06:00:30,86.5,50\n",
        ((0, 87 * PSI, 283.15), (30, 86.5 * PSI, 283.15)),
    ),
    ("t [min],p [kPa]\n0,600\n1,599\n", ((0, 6e5, None), (60, 5.99e5, None))),
)
"""Loggers: a file and its readings (s, Pa, K)."""

ASKED: tuple[tuple[Any, bytes | str, str], ...] = (
    (read_points, 'name,E,N,height\nA,"1,234",7\n', "can be 1234 or 1.234"),
    (read_points, "name,east [furlong],north\nA,1,2\n", "furlong, which is no unit of east"),
    (read_points, b"\x00\x01\x02PK", "no text"),
    (read_points, "name;east;north\nA;1,5;2.5\n", "use one of them throughout"),
    (read_curve, "Leistung;Wirkungsgrad\n0;45\n60;42\n180;26\n", "no column flow"),
    (read_curve, "Q [l/s];eta\n0;45\n60;42\n180;26\n", "no column head"),
    (read_log, "time,pressure\n0,6\n60,5.9\n", "'time' has no unit"),
    (read_log, "seconds,pressure\n0,6\n60,5.9\n", "'pressure' has no unit"),
    (read_log, "seconds,bar,temperature\n0,6,12\n", "'temperature' has no unit"),
    (read_weather, "time,temp,humidity\n2026-11-24T06:00,3,80\n", "'temp' has no unit"),
    (read_weather, "time,celsius,humidity\n2026-11-24T06:00,3,0.8\n", "write it in per cent"),
    (read_weather, "time,celsius,humidity\n05/06/2026 06:00,3,80\n", "no date and time"),
    (read_prices, "item,price,own\npvc-tee-1,9,\n", "no row is marked"),
    (read_nozzles, "nozzle,form,pressure,flow_gpm,radius_ft\nA,rotor,30,2,20\n", "'pressure' has no unit"),
)
"""What is asked about, never guessed: a reader, a file, and what it says."""


class Corpus(unittest.TestCase):
    """Every file of the corpus."""

    def test_points(self) -> None:
        """Names, places and levels, in whatever letters, lines, separators and units."""
        for file, units, wanted in POINTS:
            with self.subTest(file=file):
                found = read_points(file, units).points  # type: ignore[arg-type]
                self.assertEqual([p.name for p in found], [w[0] for w in wanted])
                for p, (_, x, y, level) in zip(found, wanted, strict=True):
                    self.assertAlmostEqual(p.x, x)
                    self.assertAlmostEqual(p.y, y)
                    self.assertEqual(p.level is None, level is None)
                    self.assertAlmostEqual(p.level or 0.0, level or 0.0)

    def test_curves(self) -> None:
        """Flow and head whichever comes first, in their own units; a pressure as the head that it is."""
        for file, units, wanted in CURVES:
            with self.subTest(file=file):
                found = read_curve(file, units).points  # type: ignore[arg-type]
                self.assertEqual(len(found), len(wanted))
                for (q, h), (flow, head) in zip(found, wanted, strict=True):
                    self.assertAlmostEqual(q, flow, places=9)
                    self.assertAlmostEqual(h, head, delta=1e-3 * max(head, 1))

    def test_logs(self) -> None:
        """Seconds, minutes or the clock; bar, mbar, psi or kPa; Celsius or Fahrenheit."""
        for file, wanted in LOGS:
            with self.subTest(file=file):
                found = read_log(file)
                self.assertEqual(len(found), len(wanted))
                for r, (at, pressure, warm) in zip(found, wanted, strict=True):
                    self.assertAlmostEqual(r.at, at)
                    self.assertAlmostEqual(r.pressure, pressure, delta=0.1)
                    self.assertEqual(r.temperature is None, warm is None)
                    self.assertAlmostEqual(r.temperature or 0.0, warm or 0.0)

    def test_weather_prices_and_nozzles(self) -> None:
        """Fahrenheit and per cent; decimal commas; US units in heads; each in letters of another set too."""
        hour = read_weather("Date;Time;Temp [°F];RH [%];Wind\n24.11.2026;06:00;50;80;2,5\n".encode("cp1252"))[0]
        self.assertAlmostEqual(hour.temperature, 283.15)
        self.assertAlmostEqual(hour.humidity, 0.8)
        self.assertAlmostEqual(hour.wind or 0.0, 2.5)
        self.assertEqual(read_prices("item;price;own\npvc-elbow-90-1;1.250,50;x\n").prices, {"pvc-elbow-90-1": 1250.5})
        (made,) = read_nozzles("Nozzle;Form;Pressure [bar];Flow [l/min];Radius [m]\nA;rotor;2;6,0;8\nA;rotor;3;7,5;9\n")
        self.assertAlmostEqual(made.rows[1][0], 3e5)
        self.assertAlmostEqual(made.rows[1][1], 1.25e-4)

    def test_asked(self) -> None:
        """What can be read in two ways, has no unit where it wants one, or is no table is refused with what to do."""
        for reader, file, says in ASKED:
            with self.subTest(file=file), self.assertRaisesRegex((BadRow, BadFile), says):
                reader(file, "metric") if reader in (read_points, read_curve) else reader(file)

    def test_which_column_is_what(self) -> None:
        """With no line that names columns, or names nobody knows, the columns are shown with their first cells and
        asked about; as a person says, so they are read.
        """
        file = "Gate,1.5,-2,210.25\nOak,30,4,211\n"
        asked = read_points(file, "metric")
        self.assertEqual(asked.points, ())
        self.assertIn("no line names any", asked.asks)
        self.assertEqual(asked.columns[0].first, ("Gate", "Oak"))
        found = read_points(file, "metric", ("name", "north", "east", "level")).points
        self.assertEqual([(p.x, p.y, p.level) for p in found], [(-2.0, 1.5, 210.25), (4.0, 30.0, 211.0)])
        strange = read_points("a;b;c\nGate;1,5;-2\n", "metric")
        self.assertIn("its columns are called a, b, c", strange.asks)
        (p,) = read_points("a;b;c\nGate;1,5;-2\n", "metric", ("name", "east", "north")).points
        self.assertEqual((p.name, p.x, p.y), ("Gate", 1.5, -2.0))

    def test_each_column_is_told(self) -> None:
        """What it is used as, in which unit, whether the file said so, and what is left out."""
        found = read_points("name,E,N,RL [ft],code\nA,1,2,3,T\n", "us")
        told = {c.head: (c.used, c.unit, c.said) for c in found.columns}
        self.assertEqual(
            told,
            {
                "name": ("name", "", False),
                "E": ("east", "ft", False),
                "N": ("north", "ft", False),
                "RL [ft]": ("level", "ft", True),
                "code": ("", "", False),
            },
        )
        self.assertIn("columns not used: code", found.says)


FIGURE = st.floats(-1e5, 1e5, allow_nan=False, allow_infinity=False).map(lambda v: round(v, 4))


class Written(unittest.TestCase):
    """What any program writes is read back."""

    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(FIGURE, FIGURE), min_size=2, max_size=12),
        st.sampled_from([";", "\t", "|", ","]),
        st.booleans(),
        st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"]),
        st.sampled_from(["\n", "\r\n", "\r"]),
    )
    def test_any_table(self, rows: list[tuple[float, float]], sign: str, comma: bool, letters: str, end: str) -> None:
        """Figures with four decimals, with a point or a comma, between any signs, in any letters and line ends."""
        out = io.StringIO()
        writer = csv.writer(out, delimiter=sign, lineterminator=end)
        writer.writerow(["Höhe [m]", "flow [l/s]"])
        for row in rows:
            writer.writerow([f"{v:.4f}".replace(".", ",") if comma else f"{v:.4f}" for v in row])
        wanted = (
            WantedColumn("height", ("höhe",), "length", needed=True),
            WantedColumn("flow", ("flow",), "flow", needed=True),
        )
        table = read_table("table", out.getvalue().encode(letters), wanted)
        found = [(table.number(r, "height"), table.number(r, "flow")) for r in table.rows]
        for (h, q), (height, flow) in zip(found, rows, strict=True):
            self.assertAlmostEqual(h or 0.0, height, places=4)
            self.assertAlmostEqual(q or 0.0, flow / 1e3, places=7)


def workbook(*sheets: tuple[str, list[list[Any]]], hidden: str = "") -> bytes:
    """A workbook as a spreadsheet writes it."""
    book = Workbook()
    book.remove(book.worksheets[0])
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
        if name == hidden:
            sheet.sheet_state = "hidden"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


class Workbooks(unittest.TestCase):
    """The same tables in a spreadsheet's own form; openpyxl writes and judges them."""

    def test_read_as_a_table_is(self) -> None:
        """The sheet that has the columns is read, others are named; figures keep their value, one with three places
        behind the point is no thousand, and a sheet that is hidden is not read.
        """
        points = workbook(
            ("Notes", [["Job 12"], ["walked in rain"]]),
            ("Survey", [["Punkt", "Rechtswert", "Hochwert", "Höhe"], ["Gate", 1.125, -2, 210.25], ["Oak", 30, 4, 211]]),
            ("Old", [["name", "east", "north", "level"], ["Gate", 9, 9, 9]]),
            hidden="Old",
        )
        found = read_points(points, "metric")
        self.assertEqual(
            [(p.name, p.x, p.y, p.level) for p in found.points],
            [("Gate", 1.125, -2.0, 210.25), ("Oak", 30.0, 4.0, 211.0)],
        )
        self.assertIn("sheet Survey is read; not read: Notes", found.says)
        curve = read_curve(workbook(("A", [["Q [m3/h]", "H [m]"], [0, 45], [3.6, 42.5], [10.8, 26]])))
        self.assertEqual([(round(q, 9), h) for q, h in curve.points], [(0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0)])
        book = read_prices(
            workbook(("Shop", [["item", "price", "own"], ["pvc40 1", 2.1, "own"], ["pvc-tee-1", 9, None]]))
        )
        self.assertEqual(book.prices, {"pvc40 1": 2.1})

    def test_what_cannot_be_opened_is_told(self) -> None:
        """A cut file, another archive, the old form, an empty book, and a book of too many cells."""
        good = workbook(("A", [["item", "price"], ["pvc40 1", 2.1]]))
        for body, says in (
            (good[: len(good) // 2], "cannot be opened"),
            (b"PK\x03\x04" + b"\0" * 60, "cannot be opened"),
            (b"\xd0\xcf\x11\xe0" + b"\0" * 60, "save it as XLSX"),
            (workbook(("A", [])), "no sheet"),
            (workbook(("A", [[0] * 100] * 4001)), "more than 400000 cells"),
        ):
            with self.subTest(says, size=len(body)), self.assertRaisesRegex(BadRow, says):
                read_prices(body)

    def test_written_and_read_back(self) -> None:
        """Each export that we also read comes back the same from the workbook as from CSV, to the cent; figures are
        figures, sizes and what begins like a formula are words, and the same job gives the same file.
        """
        plan = thistledown().model_copy(
            update={"prices": {"pvc40 1": 2.1, "pvc-elbow-90-1": 0.45}, "currency": "EUR", "name": "=1+1"}
        )
        done = derive(plan)
        tables = [parts_table(done.bill), cuts_table(plan, done.cuts), prices_table(done.bill, "EUR")]
        body = workbook_of(tables, 1_790_000_000.0)
        book = read_prices(body)
        self.assertEqual((book.prices, book.currency), (plan.prices, "EUR"))
        self.assertEqual(book, read_prices(prices_csv(done.bill, "EUR")))
        sheets = load_workbook(io.BytesIO(body))
        self.assertEqual(sheets.sheetnames, ["Parts", "Cuts", "Prices"])
        for table in tables:
            cells = list(sheets[table.title].iter_rows(values_only=True))
            self.assertEqual(cells[0], table.head)
            self.assertEqual(len(cells), len(table.rows) + 1)
        rows = list(csv.reader(io.StringIO(csv_of(tables[1]))))
        at = rows[0].index("length_mm")
        self.assertEqual(
            [f"{r[at]:.1f}" for r in list(sheets["Cuts"].iter_rows(values_only=True))[1:]], [r[at] for r in rows[1:]]
        )
        odd = WrittenTable("Odd", ("a", "b"), (("=HYPERLINK(1)", "3/4 in"), ("\x07bell", Figure(1.0))))
        sheet = load_workbook(io.BytesIO(workbook_of([odd], 1_790_000_000.0)))["Odd"]
        self.assertEqual([(c.value, c.data_type) for c in sheet[2]], [("=HYPERLINK(1)", "s"), ("3/4 in", "s")])
        self.assertEqual((sheet["A3"].value, sheet["B3"].value), (" bell", 1.0))
        with self.assertRaisesRegex(ValueError, "one name"):
            WrittenTable("Two", ("a", "a"), ())

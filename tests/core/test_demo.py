"""The demo's jobs are files that the product itself writes, and stand as they were left."""

import unittest
from importlib.resources import files

from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.demo import AS_OF, DEMO_ID, JOBS, demo_events, demo_job
from hydrarch.formats.jobfile import write_job_file


class Files(unittest.TestCase):
    """Each job, as its file has it."""

    def test_as_anyone_would_export_them(self) -> None:
        """Every file is read and written again to the letter, and no file lies there that is no demo job."""
        folder = files("hydrarch.demo").joinpath("jobs")
        self.assertEqual({f.name for f in folder.iterdir()}, {f"{name}.json" for name in JOBS})
        for name in JOBS:
            job = demo_job(name)
            self.assertEqual(
                write_job_file(job.plan, job.events), folder.joinpath(f"{name}.json").read_text("utf-8"), name
            )

    def test_what_was_done_is_of_what_is_drawn(self) -> None:
        """Every joint that was made, fitted or looked at is one of the drawing still; none is lost or changed.

        A change of core that joins a demo job otherwise shows here: then its file is drawn and recorded anew.
        """
        for name in JOBS:
            job = demo_job(name)
            done = derive(job.plan)
            stands = where_it_stands(job.plan, done, job.events, AS_OF)
            self.assertEqual({n for e in job.events for n in e.joints} - set(done.assembly.named), set(), name)
            self.assertEqual(stands.lost, (), name)
            self.assertFalse([j for j, s in stands.joints.items() if not s.matches], name)

    def test_their_times_go_by_now(self) -> None:
        """Put in at any moment, what was done lies as long before it as the file has it before its own."""
        now = AS_OF + 12345678.0
        kept = demo_job(DEMO_ID).events
        for was, told in zip(kept, demo_events(DEMO_ID, now), strict=True):
            self.assertEqual((told.id, told.joints, told.kind), (was.id, was.joints, was.kind))
            self.assertAlmostEqual(now - told.at, AS_OF - was.at, places=5)
            self.assertEqual(told.ended is None, was.ended is None)
        self.assertLess(max(e.at for e in kept), AS_OF)

"""Steps of long work are heard in the thread that does it, and end it on demand."""

from __future__ import annotations

import threading
import unittest

from omakase.core.progress import StoppedError, watched, working_on
from omakase.reports.sheets import Table, workbook


class Progress(unittest.TestCase):
    def test_nobody_needs_to_listen(self) -> None:
        working_on("anything")

    def test_steps_are_heard_inside_only_and_in_this_thread_only(self) -> None:
        heard: list[str] = []
        with watched(heard.append):
            working_on("one")
            other = threading.Thread(target=working_on, args=("elsewhere",))
            other.start()
            other.join()
        working_on("after")
        self.assertEqual(heard, ["one"])

    def test_the_listener_ends_the_work(self) -> None:
        heard: list[str] = []

        def listen(what: str) -> None:
            heard.append(what)
            if what == "second":
                raise StoppedError("stopped")

        tables = [Table(name, ("a",), ((1.0,),)) for name in ("first", "second", "third")]
        with watched(listen), self.assertRaises(StoppedError):
            workbook(tables)
        self.assertEqual(heard, ["first", "second"])
        self.assertTrue(workbook(tables))


if __name__ == "__main__":
    unittest.main()

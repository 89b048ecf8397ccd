"""Tables as CSV: what a table program reads is what was meant, and nothing of it is run."""

import csv
import io
import unittest

from glass_thread.formats.csv_table import csv_table


class CsvTableTest(unittest.TestCase):
    def test_texts_that_begin_as_formulas_are_led_by_an_apostrophe(self) -> None:
        # the beginnings of OWASP's "CSV Injection" page
        table = (
            ("=1+1", "'=1+1"), ("+cmd|' /C calc'!A0", "'+cmd|' /C calc'!A0"), ("-2+3", "'-2+3"),
            ("@SUM(A1)", "'@SUM(A1)"),
            ("\t=1", "'\t=1"), ("\r=1", "'\r=1"), ("\n=1", "'\n=1"), ("hold = on", "hold = on"), ("", ""),
            ("-12.5", "-12.5"), ("+3", "+3"), (-12.5, "-12.5"), (None, ""), ("“=”", "“=”"), ('a, "b"', 'a, "b"'),
        )  # fmt: skip
        text = csv_table(("words",), ((given,) for given, _wanted in table))
        read = list(csv.reader(io.StringIO(text, newline="")))
        self.assertEqual(read[0], ["words"])
        self.assertEqual([row[0] if row else "" for row in read[1:]], [wanted for _given, wanted in table])

    def test_lines_end_as_rfc_4180_says_unless_asked_otherwise(self) -> None:
        self.assertEqual(csv_table(("a", "b"), [(1, "x")]), "a,b\r\n1,x\r\n")
        self.assertEqual(csv_table(("a", "b"), [(1, "x")], line_end="\n"), "a,b\n1,x\n")

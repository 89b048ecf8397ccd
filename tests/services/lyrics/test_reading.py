"""Words from files: text, timed lyrics, and MIDI lyric events as mido writes them."""

import io
import unittest

import mido

from glass_thread.core.signal.errors import ParameterError
from glass_thread.formats.lyrics.lyric_files import LARGEST, read_lyrics
from glass_thread.services.lyrics.reading import words_of_lyrics
from glass_thread.services.prints.interchange import melody
from glass_thread.services.song.songs import change_track
from tests.services.case import TakeCase


def lyric_midi(*events: tuple[float, str]) -> bytes:
    """A file at 120 beats a minute with lyric events at seconds."""
    file, track, at = mido.MidiFile(charset="utf-8"), mido.MidiTrack(), 0.0
    for second, text in events:
        track.append(mido.MetaMessage("lyrics", text=text, time=round((second - at) * 2 * 480)))
        at = second
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


class LyricFilesTest(unittest.TestCase):
    def test_plain_text_has_a_line_a_line(self) -> None:
        self.assertEqual(
            [one.text for one in read_lyrics("\ufeffone two\n\n three\r\n".encode(), 0.0)], ["one two", "three"]
        )

    def test_timed_lines_repeats_words_and_an_offset(self) -> None:
        text = "[ti:Song]\n[offset:+500]\n[00:10.50][01:02]again\n[00:01.00]<00:01.00>first <00:01.50>line\n[00:05]\n"
        self.assertEqual([(one.text, one.start_s) for one in read_lyrics(text.encode(), 0.0)],
                         [("first line", 0.5), ("again", 10.0), ("again", 61.5)])  # fmt: skip

    def test_lyric_events_make_words_and_lines(self) -> None:
        data = lyric_midi((0.5, "lan-"), (1.0, "terns "), (1.5, "on\n"), (3.0, "/the"), (3.5, "quay"))
        self.assertEqual([(one.text, one.start_s) for one in read_lyrics(data, 2.0)],
                         [("lan·terns on", 2.5), ("the quay", 5.0)])  # fmt: skip

    def test_what_holds_no_words_is_refused(self) -> None:
        for data, why in ((b"", "no words"), (b" \n", "no words"), (b"\xff\xfe\x00", "neither"), (b"a\0b", "neither"),
                          (b"MThd\0\0", "damaged"), (lyric_midi(), "no words"), (b"a" * (LARGEST + 1), "larger"),
                          (b"[00:01.00]\n[ar:Nobody]\n", "no words")):  # fmt: skip
            with self.assertRaisesRegex(ParameterError, why):
                read_lyrics(data, 0.0)


class ReadingTest(TakeCase):
    def test_lines_go_to_the_phrases_they_are_sung_in(self) -> None:
        phrases = self.now().analysis.phrases
        change_track(self.work, self.track.id, {"offset_s": 2.0})
        timed = "".join(f"[00:{2.0 + one.start_s:05.2f}]line {number}\n" for number, one in enumerate(phrases))
        self.assertEqual(words_of_lyrics(self.desk, self.track.id, timed.encode()),
                         {str(number): f"line {number}" for number in range(len(phrases))})  # fmt: skip
        text = "\n".join(f"line {number}" for number in range(len(phrases)))
        self.assertEqual(set(words_of_lyrics(self.desk, self.track.id, text.encode())),
                         {str(number) for number in range(len(phrases))})  # fmt: skip

    def test_the_words_of_a_melody_file_come_back(self) -> None:
        words = {str(one.index): "slow silver" for one in self.now().analysis.phrases}
        change_track(self.work, self.track.id, {"words": words})
        found = words_of_lyrics(self.desk, self.track.id, melody(self.desk, self.now()))
        self.assertEqual({phrase: text.replace("·", "") for phrase, text in found.items()}, words)

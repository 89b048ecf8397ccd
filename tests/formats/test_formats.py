import io
import json
import resource
import signal
import struct
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
import soundfile as sf

from glass_thread.core.document.gestures import Gesture, Stroke
from glass_thread.core.document.items.links import Link
from glass_thread.core.document.linked.three_way import still_given
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.core.synthesis.dither import quantise
from glass_thread.formats.analysis_json import analysis_document, contour_csv
from glass_thread.formats.audio import AudioReader, FlacWriter, read_audio, unpack
from glass_thread.formats.curve_csv import read_curve
from glass_thread.formats.edit_document import read_edits
from glass_thread.formats.plain_data import edited_from_data, edited_to_data, note_from_data, note_to_data
from glass_thread.formats.salvage import salvage
from glass_thread.formats.wave import bext
from glass_thread.formats.wave.bext import bext_chunk, read_time_reference
from glass_thread.formats.wave.wav import write_wav
from glass_thread.store.files.disk import is_full
from tests.signals import RATE, FolderCase, analysed_short


def write_flac(path: Path, samples: np.ndarray, rate: int, *, bits: int) -> None:
    """A FLAC file in two blocks."""
    writer = FlacWriter(path, rate, samples.shape[0], bits=bits)
    half = samples.shape[1] // 2
    for part in (samples[:, :half], samples[:, half:]):
        writer.write(part)
    writer.close()


class ReaderTest(FolderCase):
    """Any piece of any container is that slice of the whole, in any order."""

    def test_pieces_are_slices(self) -> None:
        rng = np.random.default_rng(2)
        noise = 0.2 * rng.standard_normal((90_000, 2))
        for name, container, subtype in (("a.wav", "WAV", "PCM_24"), ("a.flac", "FLAC", "PCM_16"),
                                         ("a.aiff", "AIFF", "PCM_16"), ("a.mp3", "MP3", "MPEG_LAYER_III"),
                                         ("a.ogg", "OGG", "VORBIS"), ("d.wav", "WAV", "DOUBLE")):  # fmt: skip
            path = self.folder / name
            sf.write(str(path), noise, 44_100, format=container, subtype=subtype)
            whole, _ = sf.read(str(path), dtype="float64" if subtype == "DOUBLE" else "float32", always_2d=True)
            reader = AudioReader(path, self.folder / f"{name}.unpacked")
            self.addCleanup(reader.close)
            with self.subTest(name):
                self.assertEqual((reader.frames, reader.channels, reader.sample_rate), (len(whole), 2, 44_100))
                for begin, length in ((80_000, 9_000), (0, 100), (41_000, 5_000), (3, 1), (7, 0)):
                    piece = reader.read(begin, begin + length)
                    np.testing.assert_allclose(piece, whole[begin : begin + length].T, atol=2e-7)

    def test_every_container_that_is_cut_off_is_said(self) -> None:
        noise = 0.1 * np.random.default_rng(1).standard_normal((90_000, 2))
        for container, subtype in (("WAV", "PCM_24"), ("WAVEX", "PCM_16"), ("RF64", "PCM_16"), ("AIFF", "PCM_24"),
                                   ("OGG", "VORBIS"), ("OGG", "OPUS"), ("MP3", "MPEG_LAYER_III"),
                                   ("FLAC", "PCM_16")):  # fmt: skip
            path = self.folder / f"{container}{subtype}"
            sf.write(str(path), noise, 48_000, format=container, subtype=subtype)
            whole = path.read_bytes()
            AudioReader(path, self.folder / f"{path.name}.whole").close()
            # libsndfile does not even open Opus whose last page is far away
            words = "cut off|breaks off|not audio" if subtype == "OPUS" else "cut off|breaks off"
            for share in (0.96, 0.6, 0.3):
                path.write_bytes(whole[: int(len(whole) * share)])
                with self.subTest(container, subtype=subtype, share=share), self.assertRaisesRegex(AudioError, words):
                    reader = AudioReader(path, self.folder / f"{path.name}{share}")
                    self.addCleanup(reader.close)
                    reader.read(0, reader.frames)

    def test_words_in_a_tag_are_no_promise(self) -> None:
        path = self.folder / "a.mp3"
        sf.write(str(path), 0.1 * np.random.default_rng(1).standard_normal(30_000), RATE, format="MP3")
        text = b"Info" + b"\xff" * 60 + b"Xing" + b"\x7f" * 60
        tag = b"ID3\x04\x00\x00\x00\x00\x01\x0aTXXX" + bytes(4) + b"\x00\x00" + text
        path.write_bytes(tag + path.read_bytes())
        self.assertEqual(AudioReader(path, self.folder / "x").frames, 30_000)

    def test_what_can_be_read_of_a_cut_off_file_is_a_whole_one(self) -> None:
        noise = 0.1 * np.random.default_rng(1).standard_normal((90_000, 2))
        for container, subtype in (("WAV", "PCM_24"), ("WAV", "FLOAT"), ("WAV", "DOUBLE"), ("AIFF", "PCM_16"),
                                   ("FLAC", "PCM_24"), ("OGG", "VORBIS"), ("MP3", "MPEG_LAYER_III")):  # fmt: skip
            path, target = self.folder / f"{container}{subtype}", self.folder / f"{container}{subtype}.whole"
            sf.write(str(path), noise, 48_000, format=container, subtype=subtype)
            whole, _ = sf.read(str(path), always_2d=True)
            path.write_bytes(path.read_bytes()[: path.stat().st_size * 6 // 10])
            with self.subTest(container, subtype=subtype):
                salvage(path, target)
                kept, info = read_audio(target)
                self.assertGreater(info.frames, 40_000)
                self.assertLess(info.frames, 60_000)
                same = info.frames - 3000 if subtype in ("VORBIS", "MPEG_LAYER_III") else info.frames
                np.testing.assert_array_equal(kept[:, :same].T, whole[:same].astype(kept.dtype))

    def test_of_a_header_alone_nothing_is_kept(self) -> None:
        path = self.folder / "a.wav"
        sf.write(str(path), 0.1 * np.random.default_rng(1).standard_normal(9000), 48_000)
        path.write_bytes(path.read_bytes()[:45])
        with self.assertRaises(AudioError):
            salvage(path, self.folder / "b")

    def test_a_full_disk_is_one_whatever_is_written(self) -> None:
        path = self.folder / "a.mp3"
        sf.write(str(path), 0.1 * np.random.default_rng(1).standard_normal(90_000), 48_000, format="MP3")
        for write in (lambda: unpack(path, self.folder / "x"), lambda: salvage(path, self.folder / "y"),
                      self.write_flac):  # fmt: skip
            before, limits = signal.signal(signal.SIGXFSZ, signal.SIG_IGN), resource.getrlimit(resource.RLIMIT_FSIZE)
            resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, limits[1]))
            try:
                with self.assertRaises(OSError) as raised:
                    write()
            finally:
                resource.setrlimit(resource.RLIMIT_FSIZE, limits)
                signal.signal(signal.SIGXFSZ, before)
            self.assertTrue(is_full(raised.exception))

    def write_flac(self) -> None:
        writer = FlacWriter(self.folder / "z", 48_000, 1, bits=16)
        try:
            for _ in range(10):
                writer.write(np.random.default_rng(2).integers(-9000, 9000, (1, 20_000)))
        finally:
            writer.close()


class ReadTest(FolderCase):
    def test_every_container_keeps_rate_channels_and_samples(self) -> None:
        rng = np.random.default_rng(1)
        whole = rng.integers(-30000, 30000, (3000, 2)).astype(np.int16)
        cases = [("a.wav", "WAV", "PCM_16"), ("b.wav", "WAV", "PCM_24"), ("c.wav", "WAV", "PCM_32"),
                 ("d.wav", "WAV", "FLOAT"), ("e.aiff", "AIFF", "PCM_24"), ("f.flac", "FLAC", "PCM_16"),
                 ("g.wav", "WAVEX", "PCM_24"), ("h.wav", "RF64", "PCM_16")]  # fmt: skip
        for name, container, subtype in cases:
            path = self.folder / name
            sf.write(str(path), whole / 32768, 48_000, format=container, subtype=subtype)
            samples, info = read_audio(path)
            with self.subTest(name):
                self.assertEqual((info.sample_rate, info.channels, samples.shape), (48_000, 2, (2, 3000)))
                np.testing.assert_array_equal(samples * 32768, whole.T)

    def test_lossy_files(self) -> None:
        tone = 0.3 * np.sin(2 * np.pi * 440 * np.arange(RATE) / RATE)
        for name, container in (("a.ogg", "OGG"), ("b.mp3", "MP3")):
            sf.write(str(self.folder / name), tone, RATE, format=container)
            samples, info = read_audio(self.folder / name)
            self.assertEqual(info.bits, 0)
            self.assertGreater(samples.shape[1], RATE * 0.9)

    def test_samples_far_beyond_full_scale_are_no_sound(self) -> None:
        samples = np.zeros((100, 1))
        for value in (1e38, -3e38, 2e4):
            samples[7] = value
            sf.write(str(self.folder / "loud.wav"), samples, RATE, subtype="FLOAT")
            with self.subTest(value), self.assertRaisesRegex(AudioError, "beyond full scale"):
                read_audio(self.folder / "loud.wav")
        samples[7] = 8.0  # 18 dB over: floats from a mixer do that
        sf.write(str(self.folder / "hot.wav"), samples, RATE, subtype="FLOAT")
        self.assertEqual(read_audio(self.folder / "hot.wav")[0].max(), 8.0)

    def test_broken_time_stamps_are_said(self) -> None:
        path = self.folder / "t.wav"
        for stamp in (2**63, 2**64 - 1):
            write_wav(path, np.zeros((1, 50), np.int32), RATE, bits=16, time_reference=stamp)
            with self.subTest(stamp), self.assertRaisesRegex(AudioError, "time stamp is broken"):
                read_audio(path)
        fixed = bext_chunk(0)
        head = b"RIFF" + struct.pack("<I", 4000) + b"WAVEbext" + struct.pack("<I", len(fixed)) + fixed[:300]
        path.write_bytes(head)
        with self.assertRaisesRegex(AudioError, "time stamp is broken"):
            read_time_reference(path)

    def test_a_long_tail_is_not_walked_through(self) -> None:
        path = self.folder / "tail.wav"
        sf.write(str(path), np.zeros((5000, 1)), RATE)
        for tail in (bytes(1 << 20), (b"abcd" + bytes(4)) * (1 << 17)):
            longer = self.folder / "longer.wav"
            longer.write_bytes(path.read_bytes() + tail)
            with mock.patch.object(bext.struct, "unpack", side_effect=struct.unpack) as reads:
                self.assertEqual(read_audio(longer)[1].frames, 5000)
            self.assertLess(reads.call_count, 50_000)  # 131,072 headers of eight bytes would fit into the tail

    def test_unusable_files_are_refused_with_a_sentence(self) -> None:
        tone = np.zeros((100, 1))
        (self.folder / "text.wav").write_text("this is no sound")
        (self.folder / "empty.wav").write_bytes(b"")
        sf.write(str(self.folder / "none.wav"), np.zeros((0, 1)), RATE)
        sf.write(str(self.folder / "many.wav"), np.zeros((100, 6)), RATE)
        sf.write(str(self.folder / "slow.wav"), tone, 4000)
        sf.write(str(self.folder / "fast.wav"), tone, 400_000)
        bad = tone.copy()
        bad[3] = np.nan
        sf.write(str(self.folder / "nan.wav"), bad, RATE, subtype="FLOAT")
        bad[3] = np.inf
        sf.write(str(self.folder / "inf.wav"), bad, RATE, subtype="FLOAT")
        sf.write(str(self.folder / "whole.wav"), np.zeros((5000, 1)), RATE)
        (self.folder / "cut.wav").write_bytes((self.folder / "whole.wav").read_bytes()[:3000])
        sf.write(str(self.folder / "whole.flac"), np.random.default_rng(0).random(9000) - 0.5, RATE)
        (self.folder / "cut.flac").write_bytes((self.folder / "whole.flac").read_bytes()[:9000])
        sf.write(str(self.folder / "long.wav"), np.zeros((8000 * 7201, 1), np.int16), 8000, subtype="PCM_U8")
        cases = {"text.wav": "not audio", "empty.wav": "not audio", "none.wav": "no samples", "many.wav": "6 channels",
                 "slow.wav": "4000 Hz", "fast.wav": "400000 Hz", "nan.wav": "not numbers", "inf.wav": "not numbers",
                 "cut.wav": "cut off", "cut.flac": "cut off|damaged", "long.wav": "two hours",
                 "missing.wav": "not audio"}  # fmt: skip
        for name, words in cases.items():
            with self.subTest(name), self.assertRaisesRegex(AudioError, words):
                read_audio(self.folder / name)


class WriteTest(FolderCase):
    def test_depths_come_back_exactly(self) -> None:
        rng = np.random.default_rng(2)
        for bits in (16, 24):
            whole = rng.integers(-(2 ** (bits - 1)), 2 ** (bits - 1), (2, 777)).astype(np.int32)
            for name in (f"x{bits}.wav", f"x{bits}.flac"):
                path = self.folder / name
                if name.endswith("wav"):
                    write_wav(path, whole, 44_100, bits=bits)
                else:
                    write_flac(path, whole, 44_100, bits=bits)
                samples, info = read_audio(path)
                self.assertEqual(info.bits, bits)
                np.testing.assert_array_equal(samples * 2 ** (bits - 1), whole)
        value = rng.standard_normal((1, 500)).astype(np.float32)
        write_wav(self.folder / "f.wav", value, 96_000, bits=32)
        np.testing.assert_array_equal(read_audio(self.folder / "f.wav")[0], value)

    def test_time_stamp(self) -> None:
        # EBU Tech 3285: the fixed part of the chunk has 602 bytes, TimeReference lies at byte 338.
        chunk = bext_chunk(2**33 + 5)
        self.assertEqual(len(chunk), 602)
        self.assertEqual(struct.unpack_from("<II", chunk, 338), (5, 2))
        write_wav(self.folder / "t.wav", np.zeros((1, 9), np.int32), 48_000, bits=24, time_reference=172_800_000)
        self.assertEqual(read_time_reference(self.folder / "t.wav"), 172_800_000)
        sf.write(str(self.folder / "n.wav"), np.zeros(9), 48_000)
        self.assertIsNone(read_time_reference(self.folder / "n.wav"))

    def test_dither_only_where_asked(self) -> None:
        x = np.arange(-50, 50) / 2**15
        mask = np.zeros(100, bool)
        mask[40:60] = True
        out = quantise(x[np.newaxis], 16, dithered=mask, rng=np.random.default_rng(1))[0]
        np.testing.assert_array_equal(out[~mask], np.arange(-50, 50)[~mask])

    def test_dither_is_triangular_with_a_quarter_step_squared_power(self) -> None:
        # Lipshitz, Wannamaker and Vanderkooy 1992: total error power of non-subtractive TPDF dither is 1/4 step².
        x = np.full((1, 200_000), 0.3 / 2**15)
        out = quantise(x, 16, dithered=np.ones(200_000, bool), rng=np.random.default_rng(1))
        error = out - 0.3
        self.assertAlmostEqual(float(error.mean()), 0.0, delta=0.005)
        self.assertAlmostEqual(float(np.mean(error**2)), 0.25, delta=0.005)

    def test_what_is_silenced_stays_digital_silence(self) -> None:
        x = np.zeros((2, 1000))
        x[0, 400:600] = 1e-6
        out = quantise(x, 16, dithered=np.ones(1000, bool), rng=np.random.default_rng(1))
        self.assertFalse(out[:, :400].any() or out[:, 600:].any())
        self.assertTrue(out[1, 400:600].any())

    def test_full_scale_does_not_wrap(self) -> None:
        out = quantise(np.array([[1.0, -1.0, 0.99999]]), 16, dithered=None, rng=np.random.default_rng(0))
        self.assertEqual(out.tolist(), [[32767, -32768, 32767]])


class DocumentTest(FolderCase):
    def test_analysis_document(self) -> None:
        data = json.loads(json.dumps(analysis_document(analysed_short())))
        self.assertEqual(data["format"], "glass-thread-analysis")
        self.assertEqual(len(data["f0"]["midi"]), len(data["f0"]["confidence"]))
        self.assertTrue({"id", "start_s", "end_s", "centre_midi", "vibrato", "level_db"} <= data["notes"][0].keys())
        self.assertEqual(len(data["key"]["candidates"]), 6)

    def test_notes_round_trip(self) -> None:
        for note in analysed_short().notes:
            self.assertEqual(note_from_data(json.loads(json.dumps(note_to_data(note)))), note)

    def test_a_link_of_an_earlier_release_is_read_as_what_it_gave(self) -> None:
        """It kept what each note was given by value, where there are marks now."""
        stroke = {"points": [[1.0, 60.0], [1.2, 61.0]], "keep_fine": True}
        given = {"start_ms": -12.5, "end_ms": 3.0, "target_midi": 64.0, "pull": 0.8, "level_db": -1.5, "hand": [stroke]}
        link = edited_from_data({"link": {
            "id": "f0001", "lead_track": "t1", "lead_step": "s1", "timing": 0.9, "pitch": 0.8, "level": 1.0,
            "movement": False, "interval": "scale", "notes": {"n0001": given}, "rule": None,
        }})  # fmt: skip
        assert isinstance(link, Link)
        hand = (Stroke(((1.0, 60.0), (1.2, 61.0)), keep_fine=True),)
        gesture = Gesture(target_midi=64.0, pull=0.8, level_db=-1.5, hand=hand, start_shift_ms=-12.5, end_shift_ms=3.0)
        edited = EditedNote(analysed_short().notes[0], gesture)
        self.assertEqual(still_given(link.base["n0001"], edited), ["time", "pitch", "level"])
        self.assertEqual(edited_from_data(json.loads(json.dumps(edited_to_data(link)))), link)

    def test_contour_csv_has_empty_unvoiced_cells(self) -> None:
        lines = io.StringIO(contour_csv(analysed_short().contour)).read().splitlines()
        self.assertEqual(lines[0], "time_s,midi,confidence")
        self.assertTrue(lines[1].startswith("0.000,,"))

    def _curve(self, text: str) -> Path:
        path = self.folder / "curve.csv"
        path.write_text(text)
        return path

    def test_curves(self) -> None:
        contour = analysed_short().contour
        rows = "".join(f"{t:.2f},{'' if t > 2 else 61.5}\n" for t in np.arange(0, 4, 0.01))
        target = read_curve(self._curve("time_s,target_midi\n" + rows), contour)
        self.assertEqual(target[100], 61.5)
        self.assertTrue(np.isnan(target[500]))
        for text in ("", "a,b\n1,2\n", "time_s,target_midi\n1,60\n0,60\n", "time_s,target_midi\n0,999\n1,999\n"):
            with self.subTest(text=text), self.assertRaises(ParameterError):
                read_curve(self._curve(text), contour)

    def test_edit_documents(self) -> None:
        path = self.folder / "edits.json"
        path.write_text(json.dumps({"format": "glass-thread-edits", "version": 1, "operations": [{"type": "tune"}]}))
        self.assertEqual(read_edits(path), [{"type": "tune"}])
        for text in ("", "[]", '{"format": "other", "operations": []}', '{"format": "glass-thread-edits"}'):
            path.write_text(text)
            with self.subTest(text=text), self.assertRaises(ParameterError):
                read_edits(path)


if __name__ == "__main__":
    unittest.main()

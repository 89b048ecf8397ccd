"""What belongs to one opened track: its queue of changes, the questions about it, and what ends with it."""

import base64

import numpy as np

from tests.web.modules import ModuleCase


class QuestionTest(ModuleCase):
    def test_the_newest_alone_counts_and_none_after_the_end(self) -> None:
        told = self.page.evaluate("""async () => {
          const { Question } = await import("/question.js");
          const owner = new AbortController();
          const question = new Question(owner.signal);
          const [first, second] = [question.ask(), question.ask()];
          const before = [first.aborted, second.aborted];
          owner.abort();
          return [...before, second.aborted, question.ask().aborted];
        }""")
        self.assertEqual(told, [True, False, True, True])


class SessionTest(ModuleCase):
    def test_a_change_that_was_asked_for_goes_to_the_track_that_has_been_left(self) -> None:
        told = self.page.evaluate("""async () => {
          const { editorSession, beginSession } = await import("/editor_session.js");
          const { store } = await import("/store.js");
          const opened = (track) => store.setState({
            content: { track_id: track, step_id: `${track} step 1`, version: { id: `${track} version` } } });
          const session = editorSession();
          opened("a");
          let answer;
          const waits = session.after(() => new Promise((done) => (answer = () => done(true))));
          const sent = [];
          const second = session.after(async () => {
            sent.push(session.standing);
            session.movedOn({ version_id: "a version", base: "a step 2" });
            return true;
          });
          const third = session.after(async () => sent.push(session.standing) > 0);
          await Promise.resolve();
          beginSession();
          opened("b");
          answer();
          await Promise.all([waits, second, third]);
          return [sent, session.over, editorSession().standing.base.base];
        }""")
        a = {"trackId": "a", "base": {"version_id": "a version", "base": "a step 1"}}
        then = {**a, "base": {"version_id": "a version", "base": "a step 2"}}
        self.assertEqual(told, [[a, then], True, "b step 1"])

    def test_each_session_has_its_own_and_calls_its_questions_off(self) -> None:
        told = self.page.evaluate("""async () => {
          const { beginSession, perSession } = await import("/editor_session.js");
          const { Question } = await import("/question.js");
          const asking = perSession((session) => new Question(session.ends));
          const before = asking();
          const asked = before.ask();
          const same = asking() === before;
          beginSession();
          return [same, asking() === before, asked.aborted, asking().ask().aborted];
        }""")
        self.assertEqual(told, [True, False, True, False])


class PieceTest(ModuleCase):
    def test_pieces_are_laid_in_and_what_is_on_screen_is_not_written_to(self) -> None:
        n, first, inner = 6, 2, 3
        floats = np.arange(5 * inner, dtype="<f4").reshape(5, inner)
        data = floats.tobytes() + bytes(range(inner)) + np.arange(2 * inner, dtype=np.int8).tobytes()
        told = self.page.evaluate(
            """async ([n, sent]) => {
              const { withPieces } = await import("/curve_pieces.js");
              const floats = () => new Float32Array(n).fill(-1);
              const before = { tuned: floats(), levelChange: floats(), sung: floats(), glaze: floats(), level: floats(),
                confidence: new Uint8Array(n), waveform: new Int8Array(2 * n) };
              const after = withPieces(before, sent);
              const same = Object.values(withPieces(before, [])).every((one) => Object.values(before).includes(one));
              return [...["tuned", "level", "confidence", "waveform"].map((name) => [...after[name]]), [...before.tuned], same];
            }""",
            [n, [{"first": first, "data": base64.b64encode(data).decode()}]],
        )
        self.assertEqual(told[0], [-1, -1, 0, 1, 2, -1])
        self.assertEqual(told[1], [-1, -1, 12, 13, 14, -1])
        self.assertEqual(told[2], [0, 0, 0, 1, 2, 0])
        self.assertEqual(told[3], [0, 0, 0, 0, 0, 1, 2, 3, 4, 5, 0, 0])
        self.assertEqual(told[4:], [[-1] * n, True])


class StrainTest(ModuleCase):
    def told(self, strains: list[float]) -> tuple[str, list[float]]:
        notes = [{"id": f"n{i}", "strain": strain} for i, strain in enumerate(strains)]
        found = self.call("strain", "voiceStrain", notes)
        return self.call("strain", "strainSentence", found), [note["strain"] for note in found["apart"]]

    def test_which_notes_of_a_voice_stand_out(self) -> None:
        table = (
            ([10, 20, 30], "3 notes, none strained.", []),
            ([10, 20, 30, 55, 60], "2 of 5 notes are strained.", [60, 55]),
            ([70, 72, 74, 76, 90], "Strain from 70 to 90, in the middle 74", [90]),
            ([93] * 9, "Strain from 93 to 93, in the middle 93", []),
        )
        for strains, words, apart in table:
            with self.subTest(strains=strains):
                said, stand_out = self.told(strains)
                self.assertIn(words, said)
                self.assertEqual(stand_out, apart)
        self.assertIsNone(self.call("strain", "voiceStrain", []))


class ReportTest(ModuleCase):
    def test_only_what_had_the_same_cause_and_began_later_takes_trouble_away(self) -> None:
        told = self.page.evaluate("""async () => {
          const { report, say } = await import("/report.js");
          const { store } = await import("/store.js");
          const { afterChanges } = await import("/changes.js");
          const fails = async () => { throw new Error("no"); };
          const shown = () => store.getState().message?.text ?? null;
          store.setState({ message: null });
          const all = [];
          let answer;
          const reading = report(() => new Promise((done) => (answer = done)));
          await afterChanges(fails);
          answer();
          await reading;
          all.push(shown()); // what was being read meanwhile
          await report(async () => {});
          all.push(shown()); // what was read later
          await report(fails, "A file");
          all.push(shown()); // the newest is shown
          await afterChanges(async () => {});
          all.push(shown());
          say("Copy first.", "trouble");
          await report(async () => {});
          all.push(shown()); // what asks for something first stays with what is read
          await afterChanges(async () => {});
          all.push(shown());
          await report(async () => say("half of it", "trouble", "A file"), "A file");
          all.push(shown()); // said by what went well
          await report(async () => {}, "A file");
          all.push(shown());
          return all;
        }""")
        self.assertEqual(told, ["no", "no", "A file: no", "A file: no", "Copy first.", None, "half of it", None])

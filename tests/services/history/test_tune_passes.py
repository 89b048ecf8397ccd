from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.history.tune_passes import list_passes, remove_pass, save_pass
from tests.services.case import SongCase


class TunePassesTest(SongCase):
    def test_tune_passes_are_kept_by_name(self) -> None:
        settings = dict(pull=0.5, drift=1.0, vibrato=1.0, rounding="scale", beyond_cents=0.0, keep_edited=True)
        save_pass(self.work, "Mine", settings)
        names = [row["name"] for row in list_passes(self.work)]
        self.assertEqual((names[-1], len(names)), ("Mine", 5))
        with self.assertRaisesRegex(ParameterError, "name of its own"):
            save_pass(self.work, "Clear lead", settings)
        with self.assertRaisesRegex(ParameterError, "cannot be removed"):
            remove_pass(self.work, "Clear lead")
        remove_pass(self.work, "Mine")
        self.assertEqual(len(list_passes(self.work)), 4)

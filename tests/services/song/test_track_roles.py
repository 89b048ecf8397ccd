"""What part a recording has, by what its file is called: common practice, no source."""

import unittest

from glass_thread.services.song.track_roles import ROLES, role_of


class RoleTest(unittest.TestCase):
    def test_names_as_people_give_them(self) -> None:
        table = {
            "lead": ("Lead", "lead_vox_03", "Song - LeadVox", "LD vox", "01 Main Vocal"),
            "double": ("Lead dbl", "dbl_L", "Lead Double 2", "verse-DT", "Vox doubles"),
            "harmony": ("BV 1", "bgvs_low", "Harm high", "HarmonyLow", "backing vocals L", "Back Vox", "BackingVox_02"),
            "backing": ("Instrumental", "backing", "Song (karaoke)", "inst", "band no vox", "BackTrack 84bpm"),
        }
        for role, names in table.items():
            for name in names:
                with self.subTest(name):
                    self.assertEqual(role_of(name, {"lead"}), role)
                    self.assertIn(role, ROLES)

    def test_a_name_that_says_nothing(self) -> None:
        for name in ("take 7", "vocal", "", "Anna", "bleed", "instinct", "2026-11-30 14-02"):
            with self.subTest(name):
                self.assertEqual(role_of(name, set()), "lead")
                self.assertEqual(role_of(name, {"backing", "lead"}), "double")

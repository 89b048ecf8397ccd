"""Where the data folder is."""

import os
import unittest
from pathlib import Path

from glass_thread.services.folder.workspace import default_data_folder


class FolderSettingTest(unittest.TestCase):
    def test_override_then_xdg_then_home(self) -> None:
        kept = {name: os.environ.get(name) for name in ("GLASS_THREAD_DATA", "XDG_DATA_HOME")}
        try:
            os.environ["XDG_DATA_HOME"] = "/x/share"
            os.environ["GLASS_THREAD_DATA"] = "/y"
            self.assertEqual(default_data_folder(), Path("/y"))
            del os.environ["GLASS_THREAD_DATA"]
            self.assertEqual(default_data_folder(), Path("/x/share/glass-thread"))
            del os.environ["XDG_DATA_HOME"]
            self.assertEqual(default_data_folder(), Path.home() / ".local/share/glass-thread")
        finally:
            for name, value in kept.items():
                if value is None:
                    os.environ.pop(name, None)
                else:
                    os.environ[name] = value


if __name__ == "__main__":
    unittest.main()

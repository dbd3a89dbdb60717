"""Loaded before the settings: tests have a data folder and a key of their own, and never touch anybody's."""

import os
import tempfile

folder = tempfile.mkdtemp(prefix="dromikon-tests-")
os.environ["DROMIKON_DATA"] = folder
os.environ["DROMIKON_KEY_FILE"] = f"{folder}/secret.key"
os.environ.pop("DROMIKON_DEMO_TOKEN", None)

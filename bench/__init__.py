"""Measures, each as a ratio against a limit taken in the same run. `make bench` runs them all."""

import os
import tempfile

# A data folder of their own: measures never touch anybody's.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
os.environ["DROMIKON_DATA"] = tempfile.mkdtemp(prefix="dromikon-bench-")

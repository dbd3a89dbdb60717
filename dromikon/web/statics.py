"""Styles, scripts, fonts and icons: gathered once under names that carry their digest, so that browsers keep them for good.

Modules import one another by relative addresses; gathering rewrites those as well. Nothing is compiled or bundled.
"""

import hashlib
import posixpath
import re
import shutil
from functools import lru_cache
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from whitenoise.storage import CompressedManifestStaticFilesStorage

_STAMP = ".gathered"
_IMPORT = re.compile(r'^import .*?"(\.[^"]+)";$', re.M)


class GatheredStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Names with digests, also where one module imports another."""

    support_js_module_import_aggregation = True
    #: As many as modules import one another deep.
    max_post_process_passes = 20


def gather() -> None:
    """Gather the static files into the data folder, unless what lies there is of these very files. Files that are served
    as they lie are left alone."""
    sources, root = Path(settings.STATICFILES_DIRS[0]), Path(settings.STATIC_ROOT)
    if root == sources:
        return
    now = _digest(sources)
    stamp = root / _STAMP
    if stamp.exists() and stamp.read_text() == now:
        return
    # An earlier release's files go, so that they do not pile up.
    shutil.rmtree(root, ignore_errors=True)
    call_command("collectstatic", interactive=False, verbosity=0)
    stamp.write_text(now)


@lru_cache(maxsize=100)
def imported(name: str) -> tuple[str, ...]:
    """The modules that a module imports, directly or through others, in the order in which they are met."""
    sources = Path(settings.STATICFILES_DIRS[0])
    found: dict[str, None] = {}
    waiting = [name]
    while waiting:
        path = waiting.pop(0)
        for target in _IMPORT.findall((sources / path).read_text()):
            module = posixpath.normpath(posixpath.join(posixpath.dirname(path), target))
            if module not in found:
                found[module] = None
                waiting.append(module)
    return tuple(found)


def _digest(folder: Path) -> str:
    """What the files are, by name and content."""
    digest = hashlib.sha256()
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        digest.update(str(path.relative_to(folder)).encode())
        digest.update(path.read_bytes())
    return digest.hexdigest()

"""Files that come together: a ZIP is unpacked within limits, its main file found, missing side files named.

Runs in the child process.
"""

from __future__ import annotations

import json
import re
import shutil
import zipfile
from pathlib import Path, PurePosixPath

from usual_lamp.core.intake.formats import EXACT, SUFFIXES, UnreadableFile

MOST_FILES = 5000
MOST_BYTES = 6 * 2**30
MOST_RATIO = 300
"""Unpacked over packed size of one file: text packs to a tenth, only a bomb to a thousandth."""
CHUNK = 2**20
REFERENCE = re.compile(rb"DOCUMENT_FILE\s*\(\s*'((?:[^']|'')*)'")
SIDE_FILE = re.compile(r"^\s*(?:mtllib|map_\w+|bump|disp|decal|refl)\s+(.+?)\s*$", re.MULTILINE | re.IGNORECASE)


def unpack(source: Path, folder: Path) -> Path:
    """Unpack a ZIP into a folder and return its main file. Raises UnreadableFile."""
    folder.mkdir(parents=True, exist_ok=True)
    try:
        with zipfile.ZipFile(source) as bundle:
            entries = [entry for entry in bundle.infolist() if not entry.is_dir() and not _is_clutter(entry.filename)]
            _check(entries)
            total = 0
            for entry in entries:
                total += _write(bundle, entry, folder, MOST_BYTES - total)
    except (zipfile.BadZipFile, NotImplementedError, EOFError, ValueError, RuntimeError, OSError) as error:
        raise UnreadableFile(f"The ZIP could not be unpacked ({error}). Pack it again, without a password.") from error
    return main_file(folder)


def _is_clutter(name: str) -> bool:
    parts = PurePosixPath(name).parts
    return "__MACOSX" in parts or (bool(parts) and parts[-1].startswith("."))


def _check(entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > MOST_FILES:
        raise UnreadableFile(f"The ZIP holds {len(entries)} files; at most {MOST_FILES} are taken.")
    for entry in entries:
        if entry.flag_bits & 1:
            raise UnreadableFile(f"{entry.filename} is locked by a password. Pack the files again without one.")
        if entry.file_size > MOST_RATIO * max(entry.compress_size, 1024):
            size = f"{entry.file_size / 1e9:.1f} GB"
            raise UnreadableFile(f"{entry.filename} would swell to {size}: this is no CAD data.")


def _write(bundle: zipfile.ZipFile, entry: zipfile.ZipInfo, folder: Path, left: int) -> int:
    """Unpack one file, whatever its header says of its size; returns the size."""
    target = (folder / PurePosixPath(entry.filename.replace("\\", "/"))).resolve()
    if not target.is_relative_to(folder.resolve()):
        raise UnreadableFile(f"{entry.filename} points out of the ZIP. Pack the files again.")
    target.parent.mkdir(parents=True, exist_ok=True)
    size = 0
    with bundle.open(entry) as packed, target.open("wb") as plain:
        while chunk := packed.read(CHUNK):
            size += len(chunk)
            if size > min(left, MOST_RATIO * max(entry.compress_size, 1024)):
                raise UnreadableFile("The ZIP unpacks to more than can be taken in.")
            plain.write(chunk)
    return size


def main_file(folder: Path) -> Path:
    """The one CAD file that no other refers to. Raises UnreadableFile when there is none, or more than one."""
    files = [path for path in sorted(folder.rglob("*")) if path.is_file() and path.suffix.lower() in SUFFIXES]
    files = [path for path in files if path.suffix.lower() != ".zip"]
    if not files:
        raise UnreadableFile("The ZIP holds no file that can be taken in.")
    referred = {PurePosixPath(name).name.lower() for path in files for name in references(path)}
    heads = [path for path in files if path.name.lower() not in referred]
    if len(heads) == 1:
        return heads[0]
    if not heads:
        raise UnreadableFile("The files in the ZIP refer to each other in a circle.")
    names = ", ".join(path.name for path in heads[:4]) + (" …" if len(heads) > 4 else "")
    raise UnreadableFile(
        f"The ZIP holds {len(heads)} models that do not belong together ({names}). Send one at a time, or the assembly."
    )


def references(path: Path) -> list[str]:
    """Names of the files that one refers to, as it writes them."""
    suffix = path.suffix.lower()
    try:
        if EXACT.get(suffix) == "STEP":
            return [name.decode("utf-8", "replace").replace("''", "'") for name in REFERENCE.findall(path.read_bytes())]
        if suffix in (".obj", ".mtl"):
            words = SIDE_FILE.findall(path.read_text("utf-8", "replace"))
            # Options such as `-bm 0.5` stand before the name.
            return [re.sub(r"^(?:-\w+\s+(?:[-\d.]+\s+)*)*", "", word).replace("\\", "/") for word in words]
        if suffix == ".gltf":
            tree = json.loads(path.read_text("utf-8", "replace"))
            uris = [item.get("uri", "") for kind in ("buffers", "images") for item in tree.get(kind, [])]
            return [uri for uri in uris if uri and not uri.startswith("data:")]
    except (OSError, ValueError, AttributeError, TypeError):
        return []  # a damaged file; its own reader will say so
    return []


def complete(source: Path, own: bool) -> list[str]:
    """Words on the side files that are missing, the main file's and theirs.

    In a folder of our `own`, side files are first put where they are looked for, however they are cased.
    """
    present = {path.name.lower(): path for path in source.parent.rglob("*") if path.is_file()} if own else {}
    missing: dict[str, str] = {}
    waiting, seen = [source], {source.resolve()}
    while waiting:
        path = waiting.pop()
        for name in references(path):
            expected = path.parent / name
            if not expected.is_file():
                found = present.get(PurePosixPath(name.replace("\\", "/")).name.lower())
                if found is None:
                    missing[name] = path.name
                    continue
                if expected.resolve().is_relative_to(source.parent.resolve()):
                    expected.parent.mkdir(parents=True, exist_ok=True)
                    shutil.copyfile(found, expected)
            if expected.resolve() not in seen:
                seen.add(expected.resolve())
                waiting.append(expected)
    return [
        f"{name} is missing, which {by} refers to: send the files together, as a ZIP or all at once"
        for name, by in sorted(missing.items())
    ]

"""Files that come together: a ZIP is unpacked within limits, its main file found, missing side files named.

Runs in the child process.
"""

from __future__ import annotations

import json
import lzma
import re
import shutil
import struct
import zipfile
import zlib
from pathlib import Path, PurePosixPath

from usual_lamp.core.intake.formats import EXACT, SUFFIXES, UnreadableFile
from usual_lamp.core.intake.step_text import plain as plain_text

MOST_FILES = 5000
MOST_BYTES = 6 * 2**30
MOST_RATIO = 300
"""Unpacked over packed size of one file: text packs to a tenth, only a bomb to a thousandth."""
CHUNK = 2**20
REFERENCE = re.compile(rb"DOCUMENT_FILE\s*(?:/\*.*?\*/\s*)*\(\s*'((?:[^']|'')*)'", re.DOTALL)
REFERRING = re.compile(
    rb"(?:DOCUMENT|DOCUMENT_FILE|EXTERNAL_SOURCE|EXTERNALLY_DEFINED_\w+|\w*EXTERNAL_IDENTIFICATION_ASSIGNMENT\w*)"
    rb"\s*(?:/\*.*?\*/\s*)*\([^;]*;",
    re.DOTALL,
)
"""STEP entities in which a path to another file may stand, up to their end."""
QUOTED = re.compile(rb"'((?:[^']|'')*)'")
LONGEST_NAME = 1024
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
    except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, LookupError, ValueError, EOFError) as error:
        raise UnreadableFile("The ZIP is damaged and could not be unpacked. Pack the files again.") from error
    except (NotImplementedError, RuntimeError, OSError) as error:
        raise UnreadableFile("The ZIP could not be unpacked. Pack it again, without a password.") from error
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
    if "\0" in entry.filename or len(entry.filename) > LONGEST_NAME:
        raise UnreadableFile("The ZIP holds a file whose name cannot be used. Pack the files again.")
    target = (folder / PurePosixPath(entry.filename.replace("\\", "/"))).resolve()
    if not target.is_relative_to(folder.resolve()):
        raise UnreadableFile(f"{entry.filename} points out of the ZIP. Pack the files again.")
    target.parent.mkdir(parents=True, exist_ok=True)
    size = 0
    with bundle.open(entry) as packed, target.open("wb") as plain:
        while chunk := packed.read(CHUNK):
            size += len(chunk)
            if size > min(left, MOST_RATIO * max(entry.compress_size, 1024)):
                raise UnreadableFile("The ZIP unpacks to more than can be imported.")
            plain.write(chunk)
    return size


def main_file(folder: Path) -> Path:
    """The one CAD file that no other refers to. Raises UnreadableFile when there is none, or more than one."""
    files = [path for path in sorted(folder.rglob("*")) if path.is_file() and path.suffix.lower() in SUFFIXES]
    files = [path for path in files if path.suffix.lower() != ".zip"]
    if not files:
        raise UnreadableFile("The ZIP holds no file that can be imported.")
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


def _may_refer(data: bytes) -> bool:
    """Whether a STEP file may name another; looking for plain words first takes a hundredth of the time."""
    return any(word in data for word in (b"DOCUMENT", b"EXTERNAL")) and REFERRING.search(data) is not None


def complete(source: Path, own: bool, folder: Path) -> tuple[Path, list[str]]:
    """The file to read, and words on the side files that are missing, the main file's and theirs.

    References lead to files in the source's own folder and below; where one leads elsewhere, the file of that name
    that came along is meant, and if there is none it is missing: nothing outside is even looked at. In a bundle of our
    `own`, unpacked in `folder`, side files are first put where they are looked for, however they are cased. The CAD
    kernel follows references by itself: a STEP file that has any is read from a copy in `folder`, in which they are
    plain names wherever they would lead outside.
    """
    if not own and _is_step(source) and _may_refer(source.read_bytes()):
        source, own = _copied(source, folder), True
    home = (folder if own else source.parent).resolve()
    present = {path.name.lower(): path for path in home.rglob("*") if path.is_file()} if own else {}
    missing: dict[str, str] = {}
    waiting, seen = [source], {source.resolve()}
    while waiting:
        path = waiting.pop()
        names = references(path)
        if own and _is_step(path):
            _use_plain_names(path, home)
        for name in names:
            expected = _inside(home, path.parent, name) or path.parent / _last(name)
            if not expected.is_file():
                found = present.get(_last(name).lower())
                if found is None:
                    missing[name] = path.name
                    continue
                expected.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(found, expected)
            if expected.resolve() not in seen:
                seen.add(expected.resolve())
                waiting.append(expected)
    return source, [
        f"{name} is missing, which {by} refers to: send the files together, as a ZIP or all at once"
        for name, by in sorted(missing.items())
    ]


def _is_step(path: Path) -> bool:
    return EXACT.get(path.suffix.lower()) == "STEP"


def _copied(source: Path, folder: Path) -> Path:
    """The file with all that it refers to below its own folder, copied."""
    home = source.parent.resolve()
    waiting, seen = [source.resolve()], {source.resolve()}
    while waiting:
        path = waiting.pop()
        target = folder / path.relative_to(home)
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, target)
        for name in references(path):
            found = _inside(home, path.parent, name)
            if found is not None and found.is_file() and found.resolve() not in seen:
                seen.add(found.resolve())
                waiting.append(found.resolve())
    return folder / source.name


def _last(name: str) -> str:
    """The last part of a path, whichever way it is written."""
    return PurePosixPath(name.replace("\\", "/")).name or "unnamed"


def _inside(home: Path, start: Path, name: str) -> Path | None:
    """Where a reference leads, if that is in the folder or below."""
    plain = name.replace("\\", "/")
    if "\0" in plain or PurePosixPath(plain).is_absolute() or len(plain) > LONGEST_NAME:
        return None
    reached = (start / plain).resolve()
    return start / plain if reached.is_relative_to(home) else None


def _use_plain_names(file: Path, home: Path) -> None:
    """Write a STEP file anew whose references lead out of the folder."""
    text = file.read_bytes()

    def plain(match: re.Match[bytes]) -> bytes:
        """A quoted reference, without its folders where these lead to no file that came along."""
        said = plain_text(match.group(1).decode("latin-1"))
        if not re.search(r"[/\\]", said) or _inside(home, file.parent, said) is not None:
            return match.group(0)
        return b"'" + _last(said).encode("latin-1", "replace").replace(b"'", b"''") + b"'"

    made = REFERRING.sub(lambda found: QUOTED.sub(plain, found.group(0)), text)
    if made != text:
        file.write_bytes(made)

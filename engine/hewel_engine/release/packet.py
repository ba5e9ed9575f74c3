"""A release packet: files in one archive with a manifest that names the digest of each.

The archive is plain: nothing in it depends on when, where or by which library it was written, so that a packet sealed
again from what it holds is the same to the last bit. Checking it is just that.
"""

import hashlib
import io
import json
import zipfile
from dataclasses import dataclass, field

from hewel_engine.errors import InputError
from hewel_engine.io.reading import take_in

SCHEMA, VERSION = "hewel-release", 1
MANIFEST = "manifest.json"
EPOCH = (1980, 1, 1, 0, 0, 0)
"""The earliest day that an archive can name: no packet says when it was packed."""
MOST_FILES, MOST_BYTES = 500, 1 << 30
SAME_VOLUME = 1e-3
"""Share by which the volume of a file's solid may differ from what the manifest says: files round coordinates."""
TOLD = ("schema", "version", "part", "revision", "kind", "released", "files", "solids", "digest")
"""What a manifest must say."""


def canonical(value: object) -> bytes:
    """JSON with sorted names and nothing between: the same value is the same bytes."""
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()


def sealed(files: dict[str, bytes], told: dict) -> bytes:
    """The packet of ``files`` by their names, with what is ``told`` of the release beside their digests."""
    rows = [
        {"name": name, "bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
        for name, data in sorted(files.items())
    ]
    body = {"schema": SCHEMA, "version": VERSION, **told, "files": rows}
    manifest = body | {"digest": hashlib.sha256(canonical(body)).hexdigest()}
    text = (json.dumps(manifest, sort_keys=True, indent=1, ensure_ascii=False) + "\n").encode()
    return _archive({MANIFEST: text, **dict(sorted(files.items()))})


def _archive(files: dict[str, bytes]) -> bytes:
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w", zipfile.ZIP_STORED) as archive:
        for name, data in files.items():
            entry = zipfile.ZipInfo(name, EPOCH)
            entry.create_system, entry.external_attr = 3, 0o644 << 16
            archive.writestr(entry, data)
    return room.getvalue()


@dataclass
class Checked:
    """What was found wrong with a packet, in words; nothing where it is sound. ``manifest``: as far as it is read."""

    faults: list[str] = field(default_factory=list)
    manifest: dict = field(default_factory=dict)

    @property
    def sound(self) -> bool:
        return not self.faults

    def as_dict(self) -> dict:
        told = {key: value for key, value in self.manifest.items() if key != "files"}
        files = [row.get("name") for row in self.manifest.get("files", []) if isinstance(row, dict)]
        return {"sound": self.sound, "faults": self.faults, "manifest": told, "files": files}


def checked(data: bytes) -> Checked:
    """Looks at every file against the manifest, at the manifest against itself, at the solids against what is said of
    them, and at every bit of the archive. Raises InputError ``not_a_packet`` for what is none.
    """
    found = Checked()
    files = _files(data, found)
    text = files.pop(MANIFEST, None)
    if text is None:
        found.faults.append(f"It holds no {MANIFEST}: nothing says what it should be.")
        return found
    try:
        manifest = json.loads(text)
    except ValueError:
        found.faults.append(f"{MANIFEST} cannot be read: it has been changed.")
        return found
    if not isinstance(manifest, dict) or manifest.get("schema") != SCHEMA:
        raise InputError("not_a_packet", "This is no release packet.", "Give a file that a release was handed over as.")
    found.manifest = manifest
    missing = [key for key in TOLD if key not in manifest]
    if missing or manifest.get("version") != VERSION:
        wrong = f"lacks {', '.join(missing)}" if missing else f"is of version {manifest.get('version')!r}"
        found.faults.append(f"{MANIFEST} {wrong}; this check reads version {VERSION}.")
        return found
    body = {key: value for key, value in manifest.items() if key != "digest"}
    if hashlib.sha256(canonical(body)).hexdigest() != manifest["digest"]:
        found.faults.append(f"{MANIFEST} has been changed: it is not what its own digest says.")
    _against(manifest, files, found)
    if (
        found.sound
        and sealed(files, {k: v for k, v in body.items() if k not in ("schema", "version", "files")}) != data
    ):
        found.faults.append("The archive itself has been changed, though its files are whole.")
    return found


def _files(data: bytes, found: Checked) -> dict[str, bytes]:
    """What the archive holds; a file that cannot be read whole is a fault and left out."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        entries = archive.infolist()
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
        raise InputError(
            "not_a_packet", "This is no archive, or its table of contents is broken.", "Download the packet again."
        ) from None
    if len(entries) > MOST_FILES or sum(e.file_size for e in entries) > MOST_BYTES:
        raise InputError(
            "not_a_packet", "It is larger than any packet.", "Give a file that a release was handed over as."
        )
    files: dict[str, bytes] = {}
    for entry in entries:
        try:
            files[entry.filename] = archive.read(entry)
        except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError, EOFError, RuntimeError):
            found.faults.append(f"{entry.filename} is damaged.")
    return files


def _against(manifest: dict, files: dict[str, bytes], found: Checked) -> None:
    rows = {row["name"]: row for row in manifest["files"] if isinstance(row, dict) and "name" in row}
    for name, row in rows.items():
        if name not in files:
            if f"{name} is damaged." not in found.faults:
                found.faults.append(f"{name} is missing.")
        elif hashlib.sha256(files[name]).hexdigest() != row.get("sha256") or len(files[name]) != row.get("bytes"):
            found.faults.append(f"{name} is not the file that was released.")
    found.faults += [f"{name} was not among what was released." for name in files if name not in rows]
    for name, volume in manifest["solids"].items():
        if name in files and name in rows and found.sound:
            found.faults += _solid(name, files[name], volume)


def _solid(name: str, data: bytes, volume: float) -> list[str]:
    """What is wrong with a printable file: it must be closed and hold the volume that was released."""
    try:
        mesh = take_in(data, "mm" if name.endswith(".stl") else "auto").mesh
    except InputError as no:
        return [f"{name} cannot be read: {no.message}"]
    if not mesh.closed:
        return [f"{name} has an open surface."]
    if abs(mesh.volume - volume) > SAME_VOLUME * abs(volume):
        return [f"{name} holds {mesh.volume:.1f} mm³ and not the {volume:.1f} that were released."]
    return []

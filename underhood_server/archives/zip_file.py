"""A ZIP that says what it holds: written with a manifest, and read only as far as that and the limits allow.

A file from elsewhere may name paths outside of its folder, unpack to far more than it is, hold other bytes than it
says, or the same name twice: each is refused in words before anything of it is used. Nothing is unpacked to the disk.
"""

from __future__ import annotations

import hashlib
import json
import re
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from underhood.errors import BadInput

FORMAT, VERSION = "under-hood/workshop", 1
MANIFEST = "manifest.json"
NAME = re.compile(r"[a-z0-9_-]+(/[a-z0-9_-]+)*\.(json|csv|png|jpg)")
MOST_FILES, LARGEST_FILE, LARGEST_ALL = 200_000, 150_000_000, 2_000_000_000
UNREADABLE = (KeyError, EOFError, OSError, RuntimeError, zipfile.BadZipFile, zlib.error)
"""What `zipfile` raises of a damaged or unknown member; a kind of packing that it does not know is a RuntimeError."""
MOST_TIMES, FREE_BYTES = 200, 20_000_000
"""How many times its size a file may unpack to, beyond so many bytes that any may."""


class Writer:
    """Files put into a ZIP, and its manifest at the end."""

    def __init__(self, path: Path) -> None:
        self._zip = zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=6)
        self._files: list[dict[str, Any]] = []

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._zip.close()

    def put(self, name: str, content: str | bytes) -> None:
        """One file."""
        assert NAME.fullmatch(name), name
        raw = content.encode() if isinstance(content, str) else content
        self._files.append({"name": name, "size": len(raw), "sha256": hashlib.sha256(raw).hexdigest()})
        self._zip.writestr(name, raw)

    def put_json(self, name: str, content: Any) -> None:
        """One JSON file."""
        self.put(name, json.dumps(content, ensure_ascii=False, allow_nan=False, indent=1))

    def end(self, **about: Any) -> None:
        """The manifest: what it is, of which version, and every file with its size and SHA-256."""
        manifest = {"format": FORMAT, "version": VERSION, **about, "files": self._files}
        self._zip.writestr(MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1))


class Reader:
    """Files of a ZIP that was checked. Raises BadInput for one that is not what its manifest says."""

    def __init__(self, path: Path) -> None:
        try:
            self._zip = zipfile.ZipFile(path)
        except (zipfile.BadZipFile, OSError, ValueError):
            raise BadInput("is no ZIP that can be read", "file") from None
        try:
            infos = self._zip.infolist()
            self._within_limits(infos)
            self.manifest = self._manifest()
            self._files = {each["name"]: each for each in self.manifest["files"]}
            self._as_told(infos)
        except BaseException:
            self._zip.close()
            raise

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._zip.close()

    def names(self, pattern: str) -> Iterator[str]:
        """Files whose names match, in order."""
        return (name for name in sorted(self._files) if re.fullmatch(pattern, name))

    def read(self, name: str) -> bytes:
        """One file. Raises BadInput where it is missing, or not the one that the manifest tells of."""
        if name not in self._files:
            raise BadInput(f"holds no {name}", "file")
        told = self._files[name]
        raw = self._unpacked(name, int(told["size"]))
        if len(raw) != told["size"] or hashlib.sha256(raw).hexdigest() != told["sha256"]:
            raise BadInput(f"is damaged: {name} is not what the manifest says", "file")
        return raw

    def read_json(self, name: str) -> Any:
        """One JSON file. Raises BadInput."""
        raw = self.read(name)
        try:
            return json.loads(raw)
        except ValueError:
            raise BadInput(f"is damaged: {name} is no JSON", "file") from None

    @staticmethod
    def _within_limits(infos: list[zipfile.ZipInfo]) -> None:
        if len(infos) > MOST_FILES:
            raise BadInput(f"holds more than {MOST_FILES} files", "file")
        unpacked, packed = sum(each.file_size for each in infos), sum(each.compress_size for each in infos)
        largest = max((each.file_size for each in infos), default=0)
        if largest > LARGEST_FILE or unpacked > LARGEST_ALL or unpacked > FREE_BYTES + MOST_TIMES * packed:
            raise BadInput("unpacks to far more than a workshop holds", "file")
        if any(each.flag_bits & 1 for each in infos):
            raise BadInput("is encrypted; give one that is not", "file")

    def _manifest(self) -> dict[str, Any]:
        try:
            manifest = json.loads(self._unpacked(MANIFEST, LARGEST_FILE))
            known = manifest["format"] == FORMAT and isinstance(manifest["files"], list)
            named = all(
                NAME.fullmatch(each["name"]) and isinstance(each["size"], int) and isinstance(each["sha256"], str)
                for each in manifest["files"]
            )
        except (KeyError, TypeError, ValueError):
            known = named = False
        if not known:
            raise BadInput("is no workshop of this program: its manifest is missing or of something else", "file")
        if not named:
            raise BadInput("names files that no workshop holds", "file")
        if manifest.get("version") != VERSION:
            raise BadInput(f"is of version {manifest.get('version')!r}; this program reads version {VERSION}", "file")
        return dict(manifest)

    def _as_told(self, infos: list[zipfile.ZipInfo]) -> None:
        there = [each.filename for each in infos]
        if sorted(there) != sorted([MANIFEST, *self._files]):
            raise BadInput("holds other files than its manifest says", "file")

    def _unpacked(self, name: str, most: int) -> bytes:
        try:
            with self._zip.open(name) as one:
                return one.read(most + 1)
        except UNREADABLE:
            raise BadInput(f"is damaged: {name} cannot be read", "file") from None

"""What the store raises; database and file errors are translated here, their cause kept."""

from keenquiet.core.errors import KeenQuietError


class StoreError(KeenQuietError):
    """Something could not be kept or found."""


class NotFound(StoreError):
    """No such room, reading or move."""


class RevisionConflict(StoreError):
    """Somebody else saved this room in the meantime. `newest` is the revision that stands."""

    def __init__(self, newest: int) -> None:
        super().__init__(f"The room was changed in another window (revision {newest}).")
        self.newest = newest


class StorageFull(StoreError):
    """The disk is full or cannot be written; what was there before is intact."""

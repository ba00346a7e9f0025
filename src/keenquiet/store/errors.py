"""What the store raises; database and file errors are translated here, their cause kept."""

import errno

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


class UsedBefore(StoreError):
    """Another recording came under this name; neither is taken for the other."""


class TakenOver(StoreError):
    """Another device does this by now."""


class StorageFull(StoreError):
    """The disk is full or cannot be written; what was there before is intact."""


class FolderGone(StorageFull):
    """The data folder was moved, deleted or replaced while it was in use: what is written now would go nowhere."""


class Busy(StoreError):
    """Another program holds the database; nothing was changed, and asking again will do."""


def disk_trouble(exc: OSError, what: str) -> StorageFull:
    """What an operating system's refusal to write means, in words. what : what was not kept."""
    if exc.errno in (errno.ENOSPC, errno.EDQUOT):
        return StorageFull(f"The disk is full; {what} was not kept.")
    if exc.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return StorageFull(f"The data folder cannot be written; {what} was not kept.")
    if exc.errno in (errno.ENOENT, errno.ENOTDIR):
        return FolderGone(f"The data folder is gone; {what} was not kept.")
    return StorageFull(f"The disk did not take it ({exc.strerror}); {what} was not kept.")

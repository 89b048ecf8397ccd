"""What went wrong with the data folder, in a sentence; a full disk is only one way."""

from __future__ import annotations

import errno

from ...core.signal.errors import GlassThreadError

_FULL = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EFBIG})
_SENTENCES = {
    errno.EACCES: "The data folder may not be written to; check who owns it and its permissions.",
    errno.EPERM: "The data folder may not be written to; check who owns it and its permissions.",
    errno.EROFS: "The data folder is on a disk that can only be read.",
    errno.EMFILE: "Too many files are open at once; wait a moment and do it again.",
    errno.ENFILE: "Too many files are open at once; wait a moment and do it again.",
    errno.ENOENT: "A file or folder in the data folder is missing.",
    errno.EBUSY: "Another program holds the data folder's database; wait a moment and do it again.",
}


def is_full(error: OSError) -> bool:
    """True when there is no room left for what was to be written."""
    return error.errno in _FULL


def sentence_of(error: GlassThreadError | OSError) -> str:
    """What the user is told of a failure that was to be expected."""
    return storage_sentence(error) if isinstance(error, OSError) else str(error)


def storage_sentence(error: OSError) -> str:
    """What the user is told of a failure to read or write the data folder."""
    if is_full(error):
        return "The disk is full. Nothing was changed; make room and do it again."
    known = _SENTENCES.get(error.errno or 0, "The data folder cannot be read or written; the disk may be damaged.")
    return f"{known} Nothing was changed."

"""What an archive lists, for those that bring it in: asked of a worker, which has limits on time and memory.

| fact | what it is |
|---|---|
| names | the files in it, as the change room would name them |
| sizes | their bytes |
| crcs | their CRC-32, null where the format has none |
| refused | why it is left alone, where it is |
"""

from __future__ import annotations

from typing import Any

from lazy_magpie.change import Filesystem, Skip, contents
from lazy_magpie.passwords import PASSWORDS


def answer(question: list[str]) -> dict[str, Any]:
    """Return what the archive lists that lies in the folder and under the path of a question.

    The third part of the question is the file that passwords stand in, "" for none.
    """
    root, path, passwords = question
    PASSWORDS.use(passwords, None)
    try:
        names, sizes, crcs = contents(Filesystem(root), path)
    except Skip as skip:
        return {"refused": str(skip)}
    except OSError as error:
        return {"refused": error.strerror or str(error)}
    return {"names": list(names), "sizes": list(sizes), "crcs": list(crcs)}

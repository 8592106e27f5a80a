"""Names that are not taken yet."""

from collections.abc import Iterable


def free_name(wish: str, taken: Iterable[str], most: int) -> str:
    """A name as wished, numbered from 2 where another is written like it, within `most` letters.

    Parameters
    ----------
    wish
        What it is to be called.
    taken
        Names that are used.
    most
        Letters.

    Returns
    -------
    str
        A free one.

    Examples
    --------
    >>> free_name("Clap", ["clap"], 40)
    'Clap 2'
    """
    known, n = {name.lower() for name in taken}, 1
    wish = name = wish[: most - 4]
    while name.lower() in known:
        n += 1
        name = f"{wish} {n}"
    return name

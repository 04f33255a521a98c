"""What people type: every text that is kept passes here, so that no store can refuse it."""

import re

# Half characters (lone surrogates) can be in no file and no database; controls can be seen by nobody. Tabs and ends of lines stay.
_HALF = re.compile("[\ud800-\udfff]")
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


def mended(text: str) -> str:
    """Return a text without control characters; half characters become the replacement character."""
    return _HALF.sub("\ufffd", _CONTROLS.sub("", text))

"""`python -m launcher`: what the `lamp` script runs."""

import sys

from launcher.places import Trouble
from launcher.verbs import main

if __name__ == "__main__":
    try:
        sys.exit(main(sys.argv[1:]))
    except Trouble as trouble:
        print(f"lamp: {trouble}", file=sys.stderr)
        sys.exit(2)
    except OSError as error:
        if error.errno == 28:  # ENOSPC
            print("lamp: the disk is full: free some space, then run this again", file=sys.stderr)
            sys.exit(2)
        if error.errno in (1, 13, 30):  # EPERM, EACCES, EROFS
            print(
                f"lamp: {error.filename or 'a folder'} cannot be written: make this folder writable for you, then run this again",
                file=sys.stderr,
            )
            sys.exit(2)
        raise
    except KeyboardInterrupt:
        sys.exit(130)

"""python -m oat_tide."""

import sys

from oat_tide.cli import main

# A worker process loads this module anew, and must not start the program again.
if __name__ == "__main__":
    sys.exit(main())

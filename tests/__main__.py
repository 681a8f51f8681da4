"""``python -m tests [NAME ...]``; the work is in a module that the processes it starts can import."""

import os
import sys

from tests import HOME, leave
from tests.running import main

if __name__ == "__main__":
    # It ends at once, below, and leaves clearing up to the process that watches for that; which need not say so after
    # the line with the counts.
    os.environ.setdefault("PYTHONWARNINGS", "ignore::UserWarning:multiprocessing.resource_tracker")
    # Worker threads that Qt still holds must not keep the process from ending.
    code = main()
    sys.stdout.flush()
    leave(HOME)
    os._exit(code)

"""``python -m tests [NAME ...]``; the work is in a module that the processes it starts can import."""

import os
import sys

from tests.running import main

if __name__ == "__main__":
    # Worker threads that Qt still holds must not keep the process from ending.
    code = main()
    sys.stdout.flush()
    os._exit(code)

"""``python -m spiralis``."""

from spiralis.cli import main

if __name__ == "__main__":
    main()

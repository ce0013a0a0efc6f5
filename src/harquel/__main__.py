"""`python -m harquel` is the same as `harquel`."""

from harquel.cli.main import main

if __name__ == "__main__":
    main()

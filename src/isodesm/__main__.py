"""`python -m isodesm`."""

from isodesm.cli.app import main

if __name__ == "__main__":
    main()

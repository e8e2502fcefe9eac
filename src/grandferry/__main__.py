"""``python -m grandferry``: the command line."""

from grandferry.cli.main import main

if __name__ == "__main__":
    main()

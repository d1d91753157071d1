"""`python -m dryquarry` and the console script."""

from dryquarry.cli import main

if __name__ == "__main__":
    main()

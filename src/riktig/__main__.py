"""Lets `python -m riktig` do what the command `riktig` does."""

from riktig.main import main

if __name__ == "__main__":
    main()

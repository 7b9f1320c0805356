"""`python -m isostasis` is the command line."""

from .cli import main

main()

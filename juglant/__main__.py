"""`python -m juglant` is the same as the command."""

from juglant.cli import main

main()

"""Run the command line as ``python -m stonechat``."""

from stonechat.cli import main

main()

"""The version that files and the command line tell."""

VERSION = "0.1.0"

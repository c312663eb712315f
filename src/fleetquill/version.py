"""Which version of the library this is."""

VERSION = "0.1.0"

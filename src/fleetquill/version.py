"""Which version of the library this is."""

VERSION = "0.2.0"

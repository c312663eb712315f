"""What is run beside the package: makers of data, tables, pictures, the manual; loads and fuzzers."""

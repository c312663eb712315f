"""Charts from records, in the document's type and colours: read, laid out, drawn, told in words."""

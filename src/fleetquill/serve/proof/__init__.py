"""The proof: documents live in the browser while they are worked on."""

"""Makes the site and the manual from docs/: runs every recipe and tutorial, writes the reference, sets the manual."""

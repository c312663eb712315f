"""Each work beside its floor, in one run."""

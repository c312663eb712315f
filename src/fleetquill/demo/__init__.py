"""The demo documents of the Reedwater Barge Cooperative, with their data."""

"""The service: other programs ask for documents over HTTP."""

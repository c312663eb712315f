"""The fleet: many documents, one for each record, by as many processes as there are cores."""

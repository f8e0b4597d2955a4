"""The job itself: arithmetic and rules. No files, no web, no database."""

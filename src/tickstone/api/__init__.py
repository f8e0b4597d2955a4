"""The web interface of the server: HTTP in, JSON out."""

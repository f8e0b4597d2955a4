"""Programs run, not only written: on a simulated chip, or by the language's own interpreter."""

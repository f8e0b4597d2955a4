"""Everything that is kept: PostgreSQL through SQLAlchemy."""

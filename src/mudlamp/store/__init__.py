"""PostgreSQL: tables, their migrations, and the queries that return plain dataclasses."""

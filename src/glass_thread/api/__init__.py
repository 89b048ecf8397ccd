"""The HTTP interface under /api/v1: a view parses a schema, calls one service, dumps a schema."""

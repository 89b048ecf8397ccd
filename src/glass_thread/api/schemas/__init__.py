"""Shapes of requests and responses; the OpenAPI description and the TypeScript types come from here."""

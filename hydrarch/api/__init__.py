"""FastAPI routers: thin; parse, call the core or the store, return."""

"""What exists to build with: pipes, ends, fittings, methods, practices, cautions. Data files with typed loaders."""

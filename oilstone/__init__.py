"""Storage and API around the core: it holds no electrical rule."""

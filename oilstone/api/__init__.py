"""The typed API: each view turns a request into a call of the core and back."""

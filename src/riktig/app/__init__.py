"""The window: shell, benches, views, theme. The only package that imports Qt; it computes nothing."""

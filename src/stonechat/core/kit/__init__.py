"""Items and what reaching for them costs."""

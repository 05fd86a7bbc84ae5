"""The route: track, elevation, surfaces, stops, gaps, weather and sun along it."""

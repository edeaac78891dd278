"""How far forecasts lay from what came."""

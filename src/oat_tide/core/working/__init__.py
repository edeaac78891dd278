"""How a figure came about, and how that is told: signs, text, numerals."""

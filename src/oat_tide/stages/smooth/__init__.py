"""Smooth: what is under the noise, and what it forecasts."""

NAME = "smooth"

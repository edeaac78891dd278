"""Tests of what is written for other programs."""

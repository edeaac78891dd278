"""Intake: what came in, and what was made of it?"""

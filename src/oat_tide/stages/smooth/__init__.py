"""Smooth: what is under the noise?"""

"""Project: what comes next?"""

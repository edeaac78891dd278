"""History: what happened?"""

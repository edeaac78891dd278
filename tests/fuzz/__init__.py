"""Files, edits and clicks by chance, from a seed. A short run of each is a test; long ones go by hand:

python -m tests.fuzz inputs 200000    broken files and plans, a thousand a process
python -m tests.fuzz edits 20000      edits over every stage, each undone
python -m tests.fuzz clicks 3600      seconds of clicking and typing, processes beside the window killed
python -m tests.fuzz kills 1000       windows killed while they edit, save and close
"""

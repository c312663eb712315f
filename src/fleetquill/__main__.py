"""python -m fleetquill"""

from fleetquill.cli import run

if __name__ == "__main__":
    run()

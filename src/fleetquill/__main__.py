"""python -m fleetquill"""

from fleetquill.cli import main

if __name__ == "__main__":
    main(prog_name="fleetquill")

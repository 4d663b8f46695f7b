"""The first lines of a child: `python -I start.py PATHS JOB REQUEST.json`, or `… PATHS nursery MODULE …`.

Run as a file, in isolated mode, with an empty environment: nothing of the parent's comes along but these arguments.
"""

import json
import os
import sys

if __name__ == "__main__":
    sys.path[:0] = json.loads(sys.argv[1])
    # Matrices are small here: threads of the algebra library would only wait for each other, at full load.
    os.environ["OPENBLAS_NUM_THREADS"] = "1"
    from usual_lamp.core.sandbox import child

    sys.exit(child.nursery(sys.argv[3:]) if sys.argv[2] == "nursery" else child.work(sys.argv[2], sys.argv[3]))

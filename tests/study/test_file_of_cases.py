"""A file of cases as a study's input: parts are made by several threads of one run."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from zesty_lever.study.inputs import FileInputs

ROWS, GROUP, THREADS, READS = 400, 20, 8, 60


def test_threads_that_read_at_once_each_get_their_own_rows(tmp_path):
    path = tmp_path / "cases.parquet"
    loads = np.arange(float(ROWS))
    names = [f"athlete {at}" for at in range(ROWS)]
    pq.write_table(pa.table({"load_kg": loads, "note": names}), path, row_group_size=GROUP)
    inputs = FileInputs(path)

    def read(seed):
        random = np.random.default_rng(seed)
        for _ in range(READS):
            rows = np.sort(random.choice(ROWS, 30, replace=False))
            found = inputs.values(rows)
            if found["load_kg"] != loads[rows].tolist():
                return False
        return True

    with ThreadPoolExecutor(THREADS) as threads:
        assert all(threads.map(read, range(THREADS)))

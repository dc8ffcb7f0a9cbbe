"""The table of a part: one fixed schema, whatever its rows hold."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from zesty_lever.study.columns import RESULTS
from zesty_lever.study.design import Design
from zesty_lever.study.inputs import Values, parquet
from zesty_lever.study.keys import is_text
from zesty_lever.study.sampling import Rows
from zesty_lever.study.wire import Outcomes


def schema_of(design: Design) -> Any:
    """Names and types of the columns: numbers that go in have 64 bits, results 32 unless the study says 64."""
    import pyarrow as pa

    result = pa.float64() if design.study.precision == 64 else pa.float32()
    fields = [("row", pa.int64())]
    fields += [(key, pa.string() if is_text(key) else pa.float64()) for key in design.keys]
    fields += [("feasible", pa.bool_()), ("problem", pa.string()), ("note", pa.string())]
    return pa.schema([*fields, *((name, result) for name in RESULTS)])


def table_of(design: Design, rows: Rows, values: Values, outcomes: Outcomes) -> Any:
    """Rows with what came of them; what there is no number for is empty, never "not a number"."""
    import pyarrow as pa

    able = np.array([not problem for problem in outcomes.problems], dtype=bool)
    schema = schema_of(design)
    columns: list[Any] = [pa.array(rows, pa.int64())]
    for key in design.keys:
        # A setting that is left to balance has no number.
        column = [None if isinstance(v, str) and not is_text(key) else v for v in values[key]]
        columns.append(pa.array(column, schema.field(key).type))
    columns.append(pa.array(able))
    columns += [
        pa.array([word or None for word in words], pa.string())
        for words in (outcomes.problems, outcomes.notes)
    ]
    kind = np.float64 if design.study.precision == 64 else np.float32
    for number in range(len(RESULTS)):
        result = outcomes.results[:, number]
        columns.append(pa.array(result.astype(kind), mask=~able | ~np.isfinite(result)))
    return pa.Table.from_arrays(columns, schema=schema)


def parquet_bytes(table: Any) -> bytes:
    """A table as the bytes of a Parquet file: the same for the same table."""
    pq = parquet()
    made = io.BytesIO()
    pq.write_table(table.combine_chunks(), made, compression="zstd", write_statistics=True)
    return made.getvalue()

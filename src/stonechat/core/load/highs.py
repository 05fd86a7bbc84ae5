"""The solver HiGHS with the settings that all models here share."""

import highspy
import numpy as np

from stonechat.core.load.model import Model


def new_solver(**options: float) -> highspy.Highs:
    """Return a quiet solver on one thread with a fixed seed.

    Parameters
    ----------
    **options : float
        More options of the solver, such as its limit of time. [s]

    Returns
    -------
    solver : highspy.Highs
        Without a model.
    """
    solver = highspy.Highs()
    # cuts at nodes cost more time than they save here, more effort for heuristics less than it saves: with the usual
    # settings half as fast over six seeds of benchmarks/packing.py
    for option, value in {
        "output_flag": False, "log_to_console": False, "threads": 1, "random_seed": 1,
        "mip_allow_cut_separation_at_nodes": False, "mip_heuristic_effort": 0.15, **options
    }.items():  # fmt: skip
        solver.setOptionValue(option, value)
    return solver


def as_lp(model: Model) -> highspy.HighsLp:
    """Return a model in the solver's form.

    Parameters
    ----------
    model : Model
        Columns and rows.

    Returns
    -------
    lp : highspy.HighsLp
        By columns.
    """
    matrix, low, high, integer = model.arrays()
    by_column = matrix.tocsc()
    lp = highspy.HighsLp()
    lp.num_col_, lp.num_row_ = len(model.cost), len(model.rows)
    lp.col_cost_ = np.array(model.cost)
    lp.col_lower_ = np.zeros(len(model.cost))
    lp.col_upper_ = np.array(model.upper)
    lp.row_lower_, lp.row_upper_ = low, high
    lp.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    lp.a_matrix_.start_ = by_column.indptr
    lp.a_matrix_.index_ = by_column.indices
    lp.a_matrix_.value_ = by_column.data
    kinds = (highspy.HighsVarType.kContinuous, highspy.HighsVarType.kInteger)
    lp.integrality_ = [kinds[flag] for flag in integer.tolist()]
    return lp

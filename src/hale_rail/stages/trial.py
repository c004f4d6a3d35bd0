"""Every page of a case asked once, to find out whether they can be shown at all."""

from __future__ import annotations

import hale_rail.stages as stages
from hale_rail.case.file import CaseFile
from hale_rail.stages.frame.next_step import bench_line
from hale_rail.stages.frame.tray import lay_tray, tray_point
from hale_rail.stages.stage import PageQuery


def look_at(case: CaseFile) -> None:
    """Ask every stage for its state, its page and its tray; raises whatever one of them raises."""
    for stage in (*stages.STAGES, *stages.BESIDE):
        stage.state(case)
        stage.page(case, PageQuery())
        point = tray_point(case, stage, PageQuery())
        if point and stage.has_tray:
            lay_tray(case, stage, PageQuery(), point)
    bench_line(case)

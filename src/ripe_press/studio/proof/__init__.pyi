from .idle import IdleComparisons as IdleComparisons
from .mix_comparison import (
    MixComparisons as MixComparisons,
    comparison_lines as comparison_lines,
    hold_pressing as hold_pressing,
)
from .received import (
    CheckedFile as CheckedFile,
    CheckResult as CheckResult,
    FileCheck as FileCheck,
    check_files as check_files,
)
from .received_sheet import read_sheet as read_sheet

"""Everything that the core refuses, as one tree.

GelvetError
├── UnreadableInput           a file that cannot be used at all            (exit 2)
│   ├── ImageError            … an image
│   ├── LayoutError           … a card layout
│   ├── CaptureError          … a capture description
│   ├── ReferenceTargetError  … a reference target
│   ├── MeasurementFileError  … a measurement
│   └── ClassLimitsError      … limits of classes
└── NothingMeasurable         the image was read but holds no usable card  (exit 1)

Each message is one sentence for the person at the bench, naming the file and the way out.
"""


class GelvetError(Exception):
    """Base of all refusals; `code` is stable, the message is for people."""

    code = "error"


class UnreadableInput(GelvetError):
    code = "unreadable-input"


class ImageError(UnreadableInput):
    code = "unreadable-image"


class LayoutError(UnreadableInput):
    code = "unreadable-layout"


class CaptureError(UnreadableInput):
    code = "unreadable-capture"


class ReferenceTargetError(UnreadableInput):
    code = "unreadable-reference"


class MeasurementFileError(UnreadableInput):
    code = "unreadable-measurement"


class ClassLimitsError(UnreadableInput):
    code = "class-limits"


class NothingMeasurable(GelvetError):
    code = "nothing-measurable"

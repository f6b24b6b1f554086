"""The eleven questions: what each lays side by side, what it starts from, and how it is usually tested."""

from dataclasses import dataclass
from typing import Literal

# What a person names first: one paint, a colour name, a pigment code, a set, or just any paints.
Start = Literal["paint", "name", "pigment", "set", "paints"]
Layout = Literal["rows", "mixes"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """`beside` says what is laid side by side, `answer` what the answer tells; the rest is the usual plan."""

    id: str
    text: str
    beside: str
    answer: str
    start: Start
    layout: Layout = "rows"
    tests: tuple[str, ...] = ("hiding", "lifting")
    replicates: int = 1
    arrangement: str = "hand"
    application: str = "stroke"
    several_papers: bool = False
    sheet: str = "A5"


_ALL = (
    Question(
        id="one-paint", text="What is this paint really like?", beside="one paint, every test on one sheet", start="paint",
        answer="its whole profile, and where the label is right or wrong", replicates=3, sheet="A4",
        tests=("hiding", "wash-hiding", "lifting", "dilution", "layers", "layers-hiding", "drops", "tilt", "effects"),
    ),
    Question(
        id="which-maker", text="Which maker's version of this colour?", beside="one colour name from several makers", start="name",
        answer="how they differ in hue, depth, grain and clearness, and which to buy for which purpose", arrangement="likeness",
    ),
    Question(
        id="one-pigment", text="What does one pigment give?", beside="every paint with the same pigment code", start="pigment",
        answer="the spread of hue and grain inside one code", arrangement="hue",
    ),
    Question(
        id="set-worth", text="Is this set worth having?", beside="the paints of one set, in its order", start="set",
        answer="what separates, what is redundant, what could be mixed from paints already owned", arrangement="set",
    ),
    Question(
        id="replacement", text="What can replace it?", beside="one paint against the nearest others", start="paint",
        answer="ranked nearest matches, at masstone and at wash, in words", arrangement="likeness",
    ),
    Question(
        id="in-mixes", text="What does it do in mixes?", beside="one paint against a ring of partners", start="paint", layout="mixes",
        answer="which mixes stay clean, which turn grey, and the darkest dark", tests=(), arrangement="hue",
    ),
    Question(
        id="make-myself", text="Can I make it myself?", beside="a mixed colour against paints of its own pigments", start="paint",
        answer="how near its constituents come, alone and mixed", layout="mixes", tests=(),
    ),
    Question(
        id="buy-again", text="Would I buy it again?", beside="the whole collection, section by section", start="paints",
        answer="near-twins, what each paint has that the others lack, and gaps", arrangement="hue",
    ),
    Question(
        id="sparkle", text="Which of these sparkle, and when?", start="paints",
        beside="sparkling paints, heavy and light, on white and on black",
        answer="where the sparkle is, and whether heavy or light colour shows it", application="patches", arrangement="lightness",
        tests=("hiding", "lifting", "black-paper"),
    ),
    Question(
        id="lasting", text="Does it last?", beside="each paint twice: covered, and in the light", start="paints",
        answer="how far the exposed half has moved from the covered one", tests=("exposure",),
    ),
    Question(
        id="paper", text="How does paper change it?", beside="one paint on several papers", start="paint", several_papers=True,
        answer="which differences are the paper's", replicates=2,
    ),
)  # fmt: skip

QUESTIONS: dict[str, Question] = {q.id: q for q in _ALL}

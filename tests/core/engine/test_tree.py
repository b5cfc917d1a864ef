from ripe_press.core.engine import stations as st
from ripe_press.core.engine.tree import every_node, merge, node_numbers

SOURCE = st.Source("/mix.wav", 96_000, 2, 100, 32, "pcm-float")
CUT = st.Range(0, 100, 100)


def path(rate_hz: int, name: str) -> st.Path:
    return (SOURCE, CUT, st.Rate(96_000, rate_hz, "very-high"), st.Name(name))


def test_equal_prefixes_become_one_branch() -> None:
    (root,) = merge([path(44_100, "a"), path(48_000, "b"), path(44_100, "c")])
    assert root.paths == (0, 1, 2)
    (cut,) = root.children
    assert [child.paths for child in cut.children] == [(0, 2), (1,)]
    assert len(list(every_node([root]))) == 7


def test_numbers_tell_what_is_shared() -> None:
    codec = st.Codec("wav", "s16", 44_100, 2, 100)
    whole = (SOURCE, CUT, codec, st.Name("a"))
    assert node_numbers([whole, whole, path(44_100, "b")]) == [(0, 1, 2, 3), (0, 1, 4, 5), (0, 1, 6, 7)]


def test_no_paths_make_no_tree() -> None:
    assert merge([]) == ()

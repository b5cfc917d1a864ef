import pickle

from ripe_press.core.errors import RipePressError, Unreadable


def test_an_error_crosses_the_border_of_a_process_whole() -> None:
    error = pickle.loads(pickle.dumps(Unreadable("source.truncated", "It is cut short.", declared=10, read=4)))
    assert isinstance(error, Unreadable)
    assert (error.code, error.message, str(error)) == ("source.truncated", "It is cut short.", "It is cut short.")
    assert error.facts == {"declared": 10, "read": 4}
    assert isinstance(error, RipePressError)

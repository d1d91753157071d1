import pytest
from program import Board


@pytest.fixture
def board():
    made = Board()
    made.add("18:40", "Bus to town")
    made.add("09:40", "Ferry to Sandholm")
    return made


def test_lines_are_sorted_by_time(board):
    assert board.lines() == ["09:40 Ferry to Sandholm", "18:40 Bus to town"]


def test_length(board):
    assert len(board) == 2


def test_remove(board):
    board.remove("18:40")
    assert board.lines() == ["09:40 Ferry to Sandholm"]


def test_remove_what_is_not_there(board):
    with pytest.raises(KeyError):
        board.remove("07:00")


def test_a_new_board_is_empty():
    assert Board().lines() == []

"""Undo as the server keeps it: revisions walked again."""

from keenquiet.service import rooms
from keenquiet.service.history import Step, history, walked

from ..conftest import document_of, stored_room


def walk(*names):
    past, future = walked([Step(name, f"to {name}") for name in names])
    return [(s.document, s.label) for s in past], [(s.document, s.label) for s in future]


def test_changes_go_into_the_past_with_what_each_of_them_was():
    assert walk("a", "b", "c") == ([("a", "to b"), ("b", "to c")], [])


def test_a_former_document_again_was_an_undo_and_what_lay_ahead_a_redo():
    assert walk("a", "b", "c", "b") == ([("a", "to b")], [("c", "to c")])
    assert walk("a", "b", "c", "a") == ([], [("b", "to b"), ("c", "to c")])  # two steps in one save
    assert walk("a", "b", "c", "a", "c") == ([("a", "to b"), ("b", "to c")], [])
    assert walk("a", "b", "a", "d") == ([("a", "to d")], [])  # a change forgets what was undone
    assert walk("a", "a", "b") == ([("a", "to b")], [])


def test_fifty_steps_live_through_a_reload_and_lead_back_to_the_documents_that_stood(data):
    room_id = stored_room(data)
    for number in range(60):
        document = document_of(data, room_id) | {"project": f"step {number}"}
        rooms.save(data, room_id, document, revision=1 + number, label=f"project {number}")
    found = history(data, room_id, 61)
    assert (len(found.past), found.future) == (50, [])
    assert (found.past[-1].document.project, found.past[-1].label) == ("step 58", "project 59")
    # undone and saved, it is a step back for whoever opens the room then, not one forward
    rooms.save(data, room_id, found.past[-1].document.model_dump(mode="json", exclude_none=True), revision=61)
    again = history(data, room_id, 62)
    assert (again.past[-1].document.project, again.future[0].document.project) == ("step 57", "step 59")
    assert again.future[0].label == "project 59"

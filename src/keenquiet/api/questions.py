"""Whatever is asked of a document: a route for each question of the table, and for each file of it."""

from typing import Any

from fastapi import APIRouter, Response

from keenquiet.api.asks import ErrorAnswer
from keenquiet.api.deps import LATER, Async, DataFolder, answered, handed_out, in_turn
from keenquiet.service.questions import QUESTIONS
from keenquiet.service.questions.base import Filed, Question

router = APIRouter(tags=["questions"], responses={422: {"model": ErrorAnswer}})


def _add(question: Question[Any, Any]) -> None:
    """Its answer as JSON. What takes long is waited for, or told of as a job with `Prefer: respond-async`."""

    async def answer(asked: Any, data: DataFolder, later: Async) -> Any:
        case = await in_turn(question.case, asked, data)
        job = await in_turn(question.begun, case, asked)
        if job is not None:
            found = await answered(job, later=later)
            if question.work == "job" or isinstance(found, Response):
                return found
        return await in_turn(question.compute, case, asked)

    answer.__annotations__["asked"] = question.ask
    router.add_api_route(
        f"/{question.key}",
        answer,
        methods=["POST"],
        operation_id=question.key,
        response_model=question.answer,
        description=question.says,
        responses={} if question.work == "quick" else LATER,
    )
    for suffix, file in question.files.items():
        _add_file(question, suffix, file)


def _add_file(question: Question[Any, Any], suffix: str, file: Filed[Any]) -> None:
    async def answer(asked: Any, data: DataFolder) -> Response:
        case = await in_turn(question.case, asked, data)
        job = await in_turn(question.begun, case, asked)
        if job is not None:
            await answered(job, later=False)
        return handed_out(await in_turn(file.made, case, asked), f"{question.key}.{suffix}", file.media)

    answer.__annotations__["asked"] = question.ask
    router.add_api_route(
        f"/{question.key}.{suffix}",
        answer,
        methods=["POST"],
        operation_id=f"{question.key}.{suffix}",
        response_class=Response,
        description=(file.made.__doc__ or "").strip(),
        responses={200: {"content": {file.media: {}}}},
    )


for _question in QUESTIONS.values():
    _add(_question)

"""What routes depend on, named once."""

from typing import Annotated

from fastapi import Depends, Request

from keenquiet.service.data import Data


def opened_data(request: Request) -> Data:
    """The data folder of this application."""
    data: Data = request.app.state.data
    return data


DataFolder = Annotated[Data, Depends(opened_data)]

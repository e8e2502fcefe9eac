from fastapi import FastAPI


def make_app(port: int) -> FastAPI:
    return FastAPI()

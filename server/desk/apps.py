from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "desk"

    def ready(self) -> None:
        from desk.looks import after_writing
        from sheets.actions import written

        written.connect(after_writing)

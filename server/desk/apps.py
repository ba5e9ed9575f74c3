from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "desk"

    def ready(self) -> None:
        from desk import looks, standing
        from sheets.actions import written
        from work.actions import over

        written.connect(standing.after_writing)
        written.connect(looks.after_writing)
        over.connect(standing.after_work)

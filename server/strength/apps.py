from django.apps import AppConfig


class StrengthConfig(AppConfig):
    name = "strength"

    def ready(self) -> None:
        from parts.actions import came_in
        from sheets.actions import written
        from strength import actions

        written.connect(actions.after_writing)
        came_in.connect(actions.after_coming_in)

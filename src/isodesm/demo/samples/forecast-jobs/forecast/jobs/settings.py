"""Settings of the night's run, filled in by the command line."""

board_host = "board.hollin.example"
board_port = 7042
gauge_folder = "data"


def use(folder: str, host: str = board_host) -> None:
    global gauge_folder, board_host
    gauge_folder = folder
    board_host = host

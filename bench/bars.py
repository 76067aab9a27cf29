"""Prints measured figures beside their bars and remembers which are missed."""

missed: list[str] = []


def report(words: str, value: float, bar: float | None = None, unit: str = "s") -> None:
    """Print one figure, with its bar where it has one."""
    text = f"{words:58} {value:8.3f} {unit}"
    if bar is None:
        print(text, flush=True)
        return
    is_met = value <= bar
    print(f"{text}   bar {bar:g} {unit}: {'met' if is_met else 'MISSED'}", flush=True)
    if not is_met:
        missed.append(words)

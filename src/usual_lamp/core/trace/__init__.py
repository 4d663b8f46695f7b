"""Our light transport. The only package that imports Mitsuba; import `engine` first, which picks the variant."""

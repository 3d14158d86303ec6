"""The Shots tab: the film, how fast its picture slides, its sound and events; the shelf of framings."""

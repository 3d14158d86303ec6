from wild_heron.cli import main

main()

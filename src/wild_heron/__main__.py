from wild_heron.launch import main

main()

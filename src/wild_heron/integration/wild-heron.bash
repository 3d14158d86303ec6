# Completion of wild-heron for bash.
_wild_heron() {
    local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} command=${COMP_WORDS[1]} options=
    case $before in
        --copy|--allow) mapfile -t COMPREPLY < <(compgen -d -- "$word"); return ;;
        -o|--out) mapfile -t COMPREPLY < <(compgen -f -- "$word"); return ;;
        --hand) mapfile -t COMPREPLY < <(compgen -W "walk look push" -- "$word"); return ;;
        --seconds|--rate|--seed|--to|--nodes|--frames|--camera|--shots|--size|--format|--samples|--quality|--workers|--chunk|--name) return ;;
        --codec) mapfile -t COMPREPLY < <(compgen -W "h264 av1 vp9" -- "$word"); return ;;
        --depth) mapfile -t COMPREPLY < <(compgen -W "8 16 half float" -- "$word"); return ;;
    esac
    if ((COMP_CWORD == 1)); then
        options="demo sample render export bring gather job check tracker doctor integrate completion --version --help"
        mapfile -t COMPREPLY < <(compgen -W "$options" -- "$word"; compgen -f -X '!*.heron' -- "$word"; compgen -d -- "$word")
        return
    fi
    case $command in
        demo) options="--where --copy --help" ;;
        sample) options="--nodes --frames --camera --shots --size --json --help" ;;
        render) options="--out --frames --size --camera --shots --format --all-formats --samples --codec --quality --depth --transparent --opaque --passes --quick --workers --resume --tiles --profile --quiet --no-clobber --allow-missing --allow --help" ;;
        export) options="--out --frames --camera --nodes --few-keys --picture --format --quiet --no-clobber --allow --help" ;;
        bring) options="--out --quiet --no-clobber --help" ;;
        gather) options="--out --allow --quiet --help" ;;
        job) options="--out --name --frames --size --camera --shots --format --samples --codec --quality --depth --transparent --opaque --passes --quick --chunk --allow --quiet --help" ;;
        check) options="--format --json --all --quiet --allow --help" ;;
        tracker) options="--hand --seconds --rate --seed --clean --repeat --to --help" ;;
        doctor) options="--json --help" ;;
        integrate) options="--remove --help" ;;
        completion) options="bash zsh fish --help" ;;
    esac
    if [[ $word == -* || $command == completion ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$options" -- "$word")
    else
        mapfile -t COMPREPLY < <(compgen -f -X '!*.heron' -- "$word"; compgen -d -- "$word")
    fi
}
complete -o filenames -F _wild_heron wild-heron

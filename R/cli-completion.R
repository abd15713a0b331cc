# What shells complete, and the manual page, made from the commands. `make
# install` puts them in place; nobody types these by hand.

# The options of each command, by its name.
words_to_complete <- function() {
  lapply(commands(), function(command) {
    c(paste0("--", names(command$options)), "--help")
  })
}

completion_lines <- function(shell) {
  words <- words_to_complete()
  names <- paste(c(names(words), "help"), collapse = " ")
  if (shell == "fish") {
    return(fish_lines(words, names))
  }
  cases <- sprintf(
    "    %s) known=\"%s\" ;;", names(words),
    vapply(words, paste, "", collapse = " ")
  )
  c(
    if (shell == "zsh") {
      c("#compdef backfill", "autoload -U +X bashcompinit && bashcompinit")
    },
    # What is called `words` is zsh's own.
    "_backfill() {",
    "  local known current=${COMP_WORDS[COMP_CWORD]}",
    sprintf("  if [ \"$COMP_CWORD\" = 1 ]; then known=\"%s\"; else", names),
    "    case ${COMP_WORDS[1]} in", cases, "    esac", "  fi",
    "  case $COMP_CWORD:$current in",
    "    1:*|*:-*) COMPREPLY=($(compgen -W \"$known\" -- \"$current\")) ;;",
    "    *) COMPREPLY=($(compgen -f -- \"$current\")) ;;",
    "  esac", "}", "complete -o filenames -F _backfill backfill"
  )
}

fish_lines <- function(words, names) {
  c(
    sprintf("complete -c backfill -n __fish_use_subcommand -a '%s'", names),
    unlist(Map(function(command, options) {
      sprintf(
        "complete -c backfill -n '__fish_seen_subcommand_from %s' -l %s",
        command, sub("^--", "", options)
      )
    }, names(words), words))
  )
}

# A page of man: the lines as they stand, each command a section.
manual_lines <- function() {
  plain <- function(lines) {
    gsub("^([.'])", "\\\\&\\1", gsub("\\", "\\e", lines, fixed = TRUE))
  }
  section <- function(title, lines) {
    c(sprintf(".SH %s", toupper(title)), ".nf", plain(lines), ".fi")
  }
  c(
    sprintf(
      ".TH BACKFILL 1 \"\" \"backfill %s\"", utils::packageVersion("backfill")
    ),
    section("Name", "backfill - regular periods from dated records"),
    section("Synopsis", "backfill COMMAND [INPUT] [options]"),
    section("Description", main_help()),
    unlist(lapply(commands(), function(command) {
      section(command$name, help_of_command(command, all = TRUE))
    }))
  )
}

# Writes all of them below a folder such as /usr/local/share.
write_shell_files <- function(folder) {
  files <- list(
    "bash-completion/completions/backfill" = completion_lines("bash"),
    "zsh/site-functions/_backfill" = completion_lines("zsh"),
    "fish/vendor_completions.d/backfill.fish" = completion_lines("fish"),
    "man/man1/backfill.1" = manual_lines()
  )
  for (name in names(files)) {
    path <- file.path(folder, name)
    dir.create(dirname(path), recursive = TRUE, showWarnings = FALSE)
    writeLines(enc2utf8(files[[name]]), path, useBytes = TRUE)
  }
  invisible(file.path(folder, names(files)))
}

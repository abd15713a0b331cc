# Results of steps, kept for the next run by what they hang on.

# What a result hangs on: the version of the package, the call, the contents of
# its files, and the keys of what it takes.
key_of_step <- function(step, study, keys, read) {
  files <- full_paths(step, study)
  text <- deparse(step$call)
  # What an address gives may be another next time.
  address <- any(grepl("[\"'][A-Za-z][A-Za-z0-9+.-]+://", text))
  contents <- c(sums_of_step(step, read), if (address) tempfile())
  rlang::hash(list(
    as.character(utils::packageVersion("backfill")), R.version.string,
    code_identity(), text, files, contents,
    unname(keys[step$uses])
  ))
}

# Those of its files, of all that were `read`.
sums_of_step <- function(step, read) read$md5[match(step$files, read$file)]

# The package as it is installed, since a version may be built several times.
code_identity <- function() {
  if (is.null(registry$identity)) {
    registry$identity <- unname(tools::md5sum(c(
      system.file("R", "backfill.rdb", package = "backfill"), list.files(
        system.file("libs", package = "backfill"), full.names = TRUE,
        recursive = TRUE
      )
    )))
  }
  registry$identity
}

store_folder <- function() {
  file.path(tools::R_user_dir("backfill", "cache"), "steps")
}

stored_result <- function(key) {
  file <- file.path(store_folder(), paste0(key, ".rds"))
  if (file.exists(file)) {
    # It has been asked for.
    Sys.setFileTime(file, Sys.time())
    found <- tryCatch(
      suppressWarnings(readRDS(file)), error = function(cnd) NULL
    )
    # Whatever else lies there is none of ours.
    if (is.list(found) && identical(names(found), c("value", "warned"))) found
  }
}

# Where nothing can be stored, nothing is.
store_result <- function(found, key) {
  folder <- store_folder()
  if (is_chunked(found$value) || is_elsewhere(found$value) ||
        !dir.exists(folder) &&
          !dir.create(folder, recursive = TRUE, showWarnings = FALSE)) {
    return(invisible())
  }
  beside <- tempfile("new-", folder)
  on.exit(unlink(beside))
  try(
    {
      saveRDS(found, beside)
      file.rename(beside, file.path(folder, paste0(key, ".rds")))
    },
    silent = TRUE
  )
  invisible()
}

# What no run has made or asked for in a month goes.
drop_old_results <- function() {
  files <- list.files(store_folder(), full.names = TRUE)
  age <- difftime(Sys.time(), file.mtime(files), units = "days")
  unlink(files[age > 30])
}

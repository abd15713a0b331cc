# Installs the packages named as arguments from CRAN into the first library that
# can be written to.
if (!any(file.access(.libPaths(), 2) == 0)) {
  dir.create(Sys.getenv("R_LIBS_USER"), recursive = TRUE, showWarnings = FALSE)
  .libPaths(c(Sys.getenv("R_LIBS_USER"), .libPaths()))
}
library <- .libPaths()[file.access(.libPaths(), 2) == 0][[1]]
repos <- getOption("repos")
if (is.na(repos["CRAN"]) || repos["CRAN"] == "@CRAN@") {
  chooseCRANmirror(graphics = FALSE, ind = 1, local.only = TRUE)
  repos <- getOption("repos")
}
install.packages(
  commandArgs(trailingOnly = TRUE), lib = library, repos = repos, quiet = TRUE,
  Ncpus = 2L
)

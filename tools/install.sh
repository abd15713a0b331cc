#!/bin/sh
# Installs the package into the first library that can be written to, and links the command `backfill` onto the PATH.
set -eu
cd "$(dirname "$0")/.."
mkdir -p build
echo "Building and installing backfill ..."
R_MAKEVARS_USER="$PWD/tools/Makevars" MAKE="make -j2" R CMD INSTALL --preclean --no-test-load . >build/install.log 2>&1 || { cat build/install.log; exit 1; }
command=$(Rscript --vanilla -e 'cat(system.file("exec", "backfill", package = "backfill"))')
if [ -w /usr/local/bin ]; then bin=/usr/local/bin; else bin=$HOME/.local/bin; mkdir -p "$bin"; fi
ln -sf "$command" "$bin/backfill"
share=$(dirname "$bin")/share
Rscript --vanilla -e 'backfill:::write_shell_files(commandArgs(TRUE))' "$share"
echo "Installed. The command is $bin/backfill; $share has its manual page and what bash, zsh and fish complete."
case ":$PATH:" in
  *":$bin:"*) ;;
  *) echo "Add $bin to your PATH to call it by name." ;;
esac

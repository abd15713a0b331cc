#!/bin/sh
# Installs the R packages that are missing, and says so; silent and quick where none is.
# Usage: tools/setup.sh [--all] [PACKAGE...]   (--all: also what only some file formats and the tests need; packages:
# those wanted besides what DESCRIPTION names)
# Debian's built packages are taken where apt-get and root are there; else, and for what Debian lacks, CRAN.
set -eu
cd "$(dirname "$0")/.."

# Programs that the tests of reports need: pandoc, for a document of one's own, and a browser and what drives it.
programs() {
  case " $* " in *" --all "*) for one in pandoc chromium; do command -v $one >/dev/null 2>&1 || echo $one; done ;; esac
}
lacking=$(programs "$@")
if [ -n "$lacking" ]; then
  if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" -eq 0 ]; then
    echo "Installing Debian's programs:" $lacking
    apt-get update -qq >/dev/null 2>&1 || true
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $lacking >/dev/null 2>&1 ||
      echo "They could not be installed; tests of reports need them."
  else
    echo "Not there, and not installed as this is not root on Debian:" $lacking "(tests of reports need them)"
  fi
fi
case " $* " in *" --all "*)
  if command -v npm >/dev/null 2>&1 && [ ! -d tests/browser/node_modules/axe-core ]; then
    echo "Installing what drives the browser in tests, into tests/browser."
    (cd tests/browser && npm ci --no-audit --no-fund --silent) || echo "npm could not; the test in a browser is skipped."
  fi ;;
esac

missing() { Rscript --vanilla tools/missing-packages.R "$@"; }

want=$(missing "$@")
[ -n "$want" ] || exit 0

if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" -eq 0 ]; then
  debs=$(for name in $want; do echo "r-cran-$(echo "$name" | tr '[:upper:]' '[:lower:]')"; done)
  echo "Backfill needs R packages that are not installed yet:" $want
  echo "Installing Debian's built packages:" $debs
  log=$(mktemp)
  apt-get update -qq >"$log" 2>&1 || echo "apt-get update did not succeed (see $log); going on with the lists at hand."
  # One package that Debian lacks must not keep the rest from coming, hence the second try, one by one.
  # shellcheck disable=SC2086
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $debs >>"$log" 2>&1 ||
    for deb in $debs; do
      DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$deb" >>"$log" 2>&1 || true
    done
  want=$(missing "$@")
  [ -n "$want" ] || { rm -f "$log"; echo "Done."; exit 0; }
  echo "Debian does not have, or not recently enough:" $want "(log: $log)"
fi

echo "Installing from CRAN (compiled here, which takes some minutes):" $want
# shellcheck disable=SC2086
Rscript --vanilla tools/install-from-cran.R $want
want=$(missing "$@")
[ -z "$want" ] || { echo "Could not be installed:" $want >&2; exit 1; }
echo "Done."

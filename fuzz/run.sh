#!/usr/bin/env bash
# Builds the fuzz targets with coverage and runs each for so many seconds (default 600), two at a time.
# usage: fuzz/run.sh [SECONDS] [TARGET ...]
set -euo pipefail
cd "$(dirname "$0")"
seconds=${1:-600}
shift || true
targets=("$@")
[ ${#targets[@]} -gt 0 ] || targets=(parse check run edit)
# A sanitizer needs the nightly compiler; coverage alone does not, and that is what finds the way.
export RUSTFLAGS="-Cpasses=sancov-module -Cllvm-args=-sanitizer-coverage-level=4 -Cllvm-args=-sanitizer-coverage-inline-8bit-counters -Cllvm-args=-sanitizer-coverage-pc-table -Cllvm-args=-sanitizer-coverage-trace-compares"
cargo build --release --target "$(rustc -vV | sed -n 's/host: //p')" --bins
built=target/$(rustc -vV | sed -n 's/host: //p')/release
for target in "${targets[@]}"; do
    mkdir -p "corpus/$target"
    for file in ../demo/*.stoi ../cookbook/*.stoi ../cookbook/*/*.stoi ../crates/script/tests/*/*.stoi; do
        # Scenes of two projects may have one name.
        cp "$file" "corpus/$target/$(tr / _ <<<"${file#../}")"
    done
done
printf '%s\n' "${targets[@]}" | xargs -P 2 -I {} sh -c \
    "'$built/{}' -max_total_time=$seconds -max_len=4096 -timeout=20 -rss_limit_mb=4096 -dict=words.dict -artifact_prefix=found-{}- corpus/{} >{}.log 2>&1; echo '{} ended with' \$?; tail -n 3 {}.log"

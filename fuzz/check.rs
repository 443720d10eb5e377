//! Checking: every text gets its findings, and every finding can be shown.
#![no_main]

use libfuzzer_sys::fuzz_target;
use stoicheon_core::Catalogue;

fuzz_target!(|text: &str| {
    let loaded = stoicheon_script::load("fuzz.stoi", text, &Catalogue::built_in());
    for finding in loaded.diagnostics() {
        stoicheon_script::render(finding, loaded.sources(), false);
    }
});

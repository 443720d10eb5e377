//! Reading and formatting: no text makes it panic, what is set is set for good, and JSON keeps what the text says.
#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let Ok(set) = stoicheon_script::format(text) else { return };
    let again = stoicheon_script::format(&set).expect("what is set follows the grammar");
    assert_eq!(set, again);
    if let Ok(json) = stoicheon_script::to_json(text) {
        let back = stoicheon_script::from_json(&json).expect("what was text can be text again");
        let json_again = stoicheon_script::to_json(&back).expect("and JSON again");
        assert_eq!(json, json_again);
    }
});

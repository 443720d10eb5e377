//! What build servers read: results of playtests as `JUnit` XML, findings as SARIF 2.1.0.

use std::path::Path;

use quick_junit::{NonSuccessKind, Report as Suites, TestCase, TestCaseStatus, TestSuite};
use serde_json::json;
use serde_sarif::sarif::Sarif;
use stoicheon_store::{write_bytes, write_text};

use crate::{
    json::{Finding, Report},
    out::Misuse,
};

/// Writes how playtests went: a suite for each file, a case for each playtest and seed. A file that could not be run is a case, too.
pub(crate) fn junit(path: &Path, reports: &[Report<'_>], unrun: &[Finding<'_>]) -> Result<(), Misuse> {
    let mut suites = Suites::new("stoicheon");
    let mut files: Vec<&str> = reports.iter().map(|report| report.file).collect();
    files.extend(unrun.iter().map(Finding::file));
    files.dedup();
    let mut told: Vec<&str> = Vec::new();
    for file in files {
        if told.contains(&file) {
            continue;
        }
        told.push(file);
        let mut suite = TestSuite::new(file);
        for report in reports.iter().filter(|report| report.file == file) {
            let seed = report.seed.map_or_else(String::new, |seed| format!(" (seed {seed})"));
            let name = format!("{}{seed}", report.playtest.as_deref().unwrap_or_default());
            let status = if report.passed {
                TestCaseStatus::success()
            } else {
                let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
                let message = report.failure.first().map_or("it failed", String::as_str);
                status.set_message(message).set_description(report.failure.join("\n"));
                status
            };
            let mut case = TestCase::new(name, status);
            case.set_classname(file);
            suite.add_test_case(case);
        }
        for finding in unrun.iter().filter(|finding| finding.file() == file && finding.is_error()) {
            let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
            status.set_message(finding.message()).set_type(finding.code());
            let mut case = TestCase::new(format!("line {}", finding.line()), status);
            case.set_classname(file);
            suite.add_test_case(case);
        }
        suites.add_test_suite(suite);
    }
    let text = suites.to_string().map_err(|error| Misuse::Unkept(error.to_string()))?;
    write_text(path, &text).map_err(|error| Misuse::Unkept(error.to_string()))
}

/// Writes findings.
pub(crate) fn sarif(path: &Path, findings: &[Finding<'_>]) -> Result<(), Misuse> {
    let mut codes: Vec<&str> = findings.iter().map(Finding::code).collect();
    codes.sort_unstable();
    codes.dedup();
    let rules: Vec<_> = codes.iter().map(|code| json!({ "id": code })).collect();
    let results: Vec<_> = findings.iter().map(result).collect();
    let run = json!({
        "tool": { "driver": { "name": "stoicheon", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
        "columnKind": "unicodeCodePoints",
        "results": results,
    });
    let log = json!({
        "version": "2.1.0",
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "runs": [run],
    });
    // Read as what it claims to be, so that nothing else is written.
    let log: Sarif = serde_json::from_value(log).map_err(|error| Misuse::Unkept(error.to_string()))?;
    let bytes = serde_json::to_vec_pretty(&log).map_err(|error| Misuse::Unkept(error.to_string()))?;
    write_bytes(path, &bytes).map_err(|error| Misuse::Unkept(error.to_string()))
}

fn result(finding: &Finding<'_>) -> serde_json::Value {
    let places: Vec<_> = finding.places().collect();
    let place = |(file, region, text): &(&str, [usize; 4], &str)| {
        let [line, column, end_line, end_column] = region;
        // A path of this system becomes one of a URI.
        let uri = file.replace('\\', "/").trim_start_matches("./").replace(' ', "%20");
        json!({
            "physicalLocation": {
                "artifactLocation": { "uri": uri },
                "region": {
                    "startLine": line, "startColumn": column, "endLine": end_line, "endColumn": end_column
                }
            },
            "message": { "text": text }
        })
    };
    let help = finding.help().map_or_else(String::new, |help| format!(" ({help})"));
    json!({
        "ruleId": finding.code(),
        "level": if finding.is_error() { "error" } else { "warning" },
        "message": { "text": format!("{}{help}", finding.message()) },
        "locations": places.iter().take(1).map(place).collect::<Vec<_>>(),
        "relatedLocations": places.iter().skip(1).map(place).collect::<Vec<_>>(),
    })
}

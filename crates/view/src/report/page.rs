//! The page of a report.

use maud::{DOCTYPE, Markup, PreEscaped, html};

use crate::report::{Report, ReportedFinding, ReportedPlaytest};

const STYLE: &str = include_str!("report.css");
const SCRIPT: &str = include_str!("report.js");
/// Nothing is loaded from anywhere.
const POLICY: &str =
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:";

pub(super) fn page(report: &Report, map: &str, data: &str) -> String {
    let failed = report.results.iter().filter(|result| !result.story.is_empty()).count();
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta http-equiv="Content-Security-Policy" content=(POLICY);
                title { (report.title) }
                link rel="icon" href="data:,";
                style { (PreEscaped(STYLE)) }
            }
            body {
                (head(report, failed))
                main {
                    div.pictures {
                        (picture("map", "Map", "Where everything is at this moment", &html! { (PreEscaped(map)) }))
                        (picture("lanes", "Timeline", "What happened in which order", &html! {}))
                        @if let Some(wiring) = &report.wiring {
                            (picture("wires", "Wiring", "What is connected with what", &html! { (PreEscaped(wiring)) }))
                        }
                        (findings(&report.findings))
                        (playtests(&report.results, failed))
                    }
                    div.words { (words()) }
                }
                p #told .unseen role="status" aria-live="polite" {}
                script #data type="application/json" { (PreEscaped(data)) }
                script { (PreEscaped(SCRIPT)) }
            }
        }
    };
    page.into_string()
}

fn head(report: &Report, failed: usize) -> Markup {
    html! {
        header {
            div.title {
                h1 { (report.title) }
                p {
                    @if !report.results.is_empty() {
                        a href="#playtests" .bad[failed > 0] {
                            @if failed > 0 { (failed) " of " (report.results.len()) " playtests failed" }
                            @else { (report.results.len()) " playtests passed" }
                        }
                        " · "
                    }
                    @if !report.findings.is_empty() {
                        a href="#findings" .bad { (report.findings.len()) " found by the checker" }
                        " · "
                    }
                    (report.ends)
                    @if !report.of.is_empty() { " · " span title=(report.of) { (report.of) } }
                }
            }
            div.clock role="group" aria-label="Time" {
                button #before title="Back to when something happened (Shift ←)" { "⇤" }
                button #back title="One tick back (←)" { "←" }
                output #now {}
                button #on title="One tick on (→)" { "→" }
                button #after title="On to when something happens (Shift →)" { "⇥" }
                input #time type="range" min="0" step="1" value="0" aria-label="Tick";
            }
            div.choose {
                label for="choose" { "Choose" }
                input #choose type="search" list="things" placeholder="a signal, an object, a wire …" autocomplete="off";
                datalist #things {}
                button #theme title="Light or dark" aria-label="Light or dark" { "◐" }
            }
        }
    }
}

fn picture(id: &str, title: &str, about: &str, inside: &Markup) -> Markup {
    html! {
        section id=(id) aria-labelledby=(format!("{id}-title")) {
            h2 id=(format!("{id}-title")) { (title) " " small { (about) } }
            div.paper tabindex="0" role="group" aria-labelledby=(format!("{id}-title")) { (inside) }
        }
    }
}

fn words() -> Markup {
    html! {
        section #chosen aria-labelledby="chosen-title" {
            h2 #chosen-title { "Chosen" }
            div #story {}
        }
        section #trace aria-labelledby="trace-title" {
            h2 #trace-title { "Trace " small #count {} }
            form #filter role="search" {
                label { "about " input #about type="search" list="things" placeholder="everything" autocomplete="off"; }
                label { "who " select #who { option value="" { "anybody" } } }
                label { input #refused type="checkbox"; " refused only" }
                label { input #chain type="checkbox"; " lit only" }
            }
            div #rows tabindex="0" role="listbox" aria-labelledby="trace-title" { div #sheet {} }
        }
        section #values aria-labelledby="values-title" {
            h2 #values-title { "Values " small { "as they are now" } }
            div.scroll tabindex="0" role="group" aria-labelledby="values-title" {
                table { tbody #facts {} }
            }
        }
    }
}

fn findings(findings: &[ReportedFinding]) -> Markup {
    html! {
        section #findings aria-labelledby="findings-title" {
            h2 #findings-title { "Found by the checker" }
            @if findings.is_empty() { p { "Nothing." } }
            @for finding in findings {
                pre .bad[finding.is_error] .doubtful[!finding.is_error] { (finding.text) }
            }
        }
    }
}

fn playtests(results: &[ReportedPlaytest], failed: usize) -> Markup {
    html! {
        section #playtests aria-labelledby="playtests-title" {
            h2 #playtests-title { "Playtests" }
            @if results.is_empty() { p { "There are none." } }
            @else { p { (results.len() - failed) " passed, " (failed) " failed" } }
            ul {
                @for result in results {
                    li .bad[!result.story.is_empty()] {
                        b { @if result.story.is_empty() { "passed" } @else { "failed" } }
                        " " (result.name) " " small { (result.about) }
                        @if !result.story.is_empty() { pre { (result.story.join("\n")) } }
                    }
                }
            }
        }
    }
}

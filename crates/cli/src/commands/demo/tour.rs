//! The tour: which commands it shows on the demo data, and why.

/// The repository of the tour, in its folder.
pub(super) const REPOSITORY: &str = "kit";

/// A stop of the tour: what it shows, and the arguments that show it.
pub(super) struct Stop {
    pub(super) says: &'static str,
    pub(super) arguments: &'static [&'static str],
}

/// The stops, in the order in which people meet the tasks.
pub(super) const TOUR: [Stop; 60] = [
    Stop {
        says: "Two editions of the kit. Which of its files differ, and how?",
        arguments: &["compare", "spring", "autumn"],
    },
    Stop {
        says: "Only what is new or gone; what else differs is counted.",
        arguments: &["compare", "--only", "new,gone", "spring", "autumn"],
    },
    Stop {
        says: "One file of the tree: a name from it is enough.",
        arguments: &["compare", "spring", "autumn", "check_levels.py"],
    },
    Stop {
        says: "The plotting script stopped working. What did somebody change in its 300 lines?",
        arguments: &["compare", "spring/scripts/plot_levels.py", "autumn/scripts/plot_levels.py"],
    },
    Stop {
        says: "A configuration with edited numbers: the numbers are marked, not the lines alone.",
        arguments: &[
            "compare",
            "--context",
            "1",
            "spring/stations/harbour-mouth.toml",
            "autumn/stations/harbour-mouth.toml",
        ],
    },
    Stop {
        says: "Two files that differ in one letter.",
        arguments: &[
            "compare",
            "--grain",
            "letter",
            "spring/stations/skerry-light.toml",
            "autumn/stations/skerry-light.toml",
        ],
    },
    Stop {
        says: "A text with a paragraph that was added and one that went elsewhere.",
        arguments: &["compare", "--context", "1", "spring/notes/handbook.txt", "autumn/notes/handbook.txt"],
    },
    Stop {
        says: "Which functions, tables and chapters changed, file by file.",
        arguments: &["compare", "--sections", "spring", "autumn", "scripts", "stations"],
    },
    Stop {
        says: "One edit in many files? The option that puts it aside stands behind it.",
        arguments: &["compare", "--repeats", "spring", "autumn", "forms"],
    },
    Stop {
        says: "An export whose rows were sorted anew, with times in every row: which marks changed?",
        arguments: &[
            "compare",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
        ],
    },
    Stop {
        says: "The same as a grid.",
        arguments: &[
            "compare",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "--layout",
            "beside",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
        ],
    },
    Stop {
        says: "Settings that went from JSON to YAML: what do they say now that they did not say before?",
        arguments: &["compare", "--kind", "data", "exports/spring/uplink.json", "exports/autumn/uplink.yaml"],
    },
    Stop {
        says: "An export of XML, with its attributes and its stations in another order.",
        arguments: &["compare", "--kind", "data", "exports/spring/network.xml", "exports/autumn/network.xml"],
    },
    Stop {
        says: "A folder of exports, each file as what it is.",
        arguments: &["compare", "--kind", "auto", "exports/spring", "exports/autumn"],
    },
    Stop {
        says: "One row of a table carried across, by the number that the comparison prints.",
        arguments: &[
            "take",
            "--kind",
            "table",
            "--ignore",
            "column:updated_*",
            "--changes",
            "2",
            "--into",
            "before",
            "exports/spring/marks.csv",
            "exports/autumn/marks.csv",
            "-o",
            "marks.csv",
        ],
    },
    Stop {
        says: "What changed in the limits of the alarms, as operations on JSON.",
        arguments: &["patch", "--format", "json-patch", "exports/spring/limits.json", "exports/autumn/limits.json"],
    },
    Stop {
        says: "Files that are not text, each counted in its own unit: pixels, bytes, paragraphs, cells.",
        arguments: &["compare", "media/spring", "media/autumn"],
    },
    Stop {
        says: "A chart on which a buoy moved and a shoal came to be. With colours, it is shown in small too.",
        arguments: &["compare", "media/spring/chart.png", "media/autumn/chart.png"],
    },
    Stop {
        says: "Both charts and what differs, as an image for somebody else.",
        arguments: &["report", "media/spring/chart.png", "media/autumn/chart.png", "-o", "chart.png"],
    },
    Stop {
        says: "The firmware of a gauge: single bytes edited, and a block put in, behind which nothing else differs.",
        arguments: &["compare", "--context", "0", "media/spring/gauge.bin", "media/autumn/gauge.bin"],
    },
    Stop {
        says: "One of these ranges, carried across.",
        arguments: &[
            "take",
            "--changes",
            "3",
            "--into",
            "before",
            "media/spring/gauge.bin",
            "media/autumn/gauge.bin",
            "-o",
            "gauge.bin",
        ],
    },
    Stop {
        says: "The letter of a keeper, as an office document: paragraphs, under their headings.",
        arguments: &["compare", "--context", "1", "media/spring/letter.docx", "media/autumn/letter.docx"],
    },
    Stop {
        says: "A workbook: its sheets, cell by cell, with formulas.",
        arguments: &["compare", "media/spring/levels.xlsx", "media/autumn/levels.xlsx"],
    },
    Stop {
        says: "How was a file read, and why so?",
        arguments: &["explain", "media/spring/levels.xlsx", "media/autumn/levels.xlsx"],
    },
    Stop {
        says: "A function that moved to another script: named at both ends.",
        arguments: &[
            "compare",
            "--context",
            "1",
            "spring",
            "autumn",
            "scripts/week_report.py",
            "scripts/report_parts.py",
        ],
    },
    Stop {
        says: "A text that was wrapped anew. Which words changed?",
        arguments: &["compare", "--mute", "line-breaks", "--context", "1", "spring", "autumn", "guide.txt"],
    },
    Stop {
        says: "Code, with before and after beside each other; each change says which function it is in.",
        arguments: &[
            "compare",
            "--layout",
            "beside",
            "--width",
            "140",
            "--context",
            "1",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
        ],
    },
    Stop {
        says: "The same as one text, with what changed in place.",
        arguments: &[
            "compare",
            "--layout",
            "inline",
            "--context",
            "1",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
        ],
    },
    Stop {
        says: "Sixty lines differ by their clock, which the configuration mutes. Which of them matters?",
        arguments: &["compare", "--counted-only", "--context", "1", "spring", "autumn", "harbour-mouth.log"],
    },
    Stop {
        says: "A formatter indented this script anew. What else changed in it?",
        arguments: &["compare", "--ignore", "space-amount", "--context", "1", "spring", "autumn", "alarm.js"],
    },
    Stop {
        says: "Only its comments were edited: muted, and the exit status says that nothing differs that counts.",
        arguments: &["compare", "--mute", "comments", "--context", "0", "spring", "autumn", "gauge_math.py"],
    },
    Stop {
        says: "Why does a line count? The rule, where it was declared, and what it matched.",
        arguments: &["explain", "spring", "autumn", "harbour-mouth.log", "--line", "after:32"],
    },
    Stop {
        says: "A comparison that is saved in tideline.toml.",
        arguments: &["saved", "kit", "--only", "muted,changed"],
    },
    Stop {
        says: "For programs: JSON Lines, a record for the pair, one for each change, and a summary.",
        arguments: &["compare", "--json", "spring/stations/skerry-light.toml", "autumn/stations/skerry-light.toml"],
    },
    Stop {
        says: "For somebody who was not here: an index, and a page for each file. Open report/index.html in a browser.",
        arguments: &["report", "spring", "autumn", "-o", "report/"],
    },
    Stop {
        says: "Or one page that needs nothing else, to send along.",
        arguments: &[
            "report",
            "spring/scripts/tide_table.py",
            "autumn/scripts/tide_table.py",
            "-o",
            "tide_table.html",
            "--title",
            "Heights in feet",
        ],
    },
    Stop {
        says: "Or Markdown, for a code review.",
        arguments: &[
            "report",
            "--format",
            "markdown",
            "--context",
            "1",
            "spring/stations/harbour-mouth.toml",
            "autumn/stations/harbour-mouth.toml",
            "-o",
            "-",
        ],
    },
    Stop {
        says: "What differs in a configuration as a patch, for somebody who has only the spring edition.",
        arguments: &["patch", "spring/stations/harbour-mouth.toml", "autumn/stations/harbour-mouth.toml"],
    },
    Stop {
        says: "A patch of one folder; what the format cannot carry is named.",
        arguments: &["patch", "--context", "0", "spring/stations", "autumn/stations"],
    },
    Stop {
        says: "An editor's patch, made for the spring edition of the handbook, as it looks.",
        arguments: &["show", "--context", "1", "patches/editor.patch"],
    },
    Stop {
        says: "The handbook moved on since; the patch goes in where it belongs.",
        arguments: &["apply", "--into", "autumn", "patches/editor.patch"],
    },
    Stop { says: "Every run can be undone.", arguments: &["undo"] },
    Stop {
        says: "A second patch does not fit: nothing is written, and the very words are shown that stand in its way.",
        arguments: &["apply", "--into", "autumn", "patches/second-reading.patch"],
    },
    Stop {
        says: "What fits can go in all the same; the rest becomes a patch of its own.",
        arguments: &["apply", "--keep-going", "--into", "autumn", "patches/second-reading.patch"],
    },
    Stop { says: "And back again.", arguments: &["undo"] },
    Stop { says: "A copy of the spring edition, times and all.", arguments: &["sync", "spring", "copy", "--go"] },
    Stop {
        says: "What would make its stations and tools like those of autumn? Nothing is written yet.",
        arguments: &["sync", "--mirror", "autumn", "copy", "stations", "tools"],
    },
    Stop {
        says: "The same, done: what moved is moved, what autumn does not have goes.",
        arguments: &["sync", "--mirror", "autumn", "copy", "stations", "tools", "--go"],
    },
    Stop {
        says: "Two of the changes were not wanted: they are taken back.",
        arguments: &[
            "take",
            "spring/stations/harbour-mouth.toml",
            "copy/stations/harbour-mouth.toml",
            "--changes",
            "1,3",
            "--into",
            "after",
            "--context",
            "0",
        ],
    },
    Stop { says: "And that can be undone like everything else.", arguments: &["undo"] },
    Stop {
        says: "Keepers and the office both changed the spring edition. What did each do since?",
        arguments: &["compare", "--base", "spring", "keeper", "office"],
    },
    Stop {
        says: "In one file, in three columns.",
        arguments: &[
            "compare",
            "--base",
            "spring",
            "keeper",
            "office",
            "harbour-mouth.toml",
            "--layout",
            "beside",
            "--width",
            "120",
            "--context",
            "1",
        ],
    },
    Stop {
        says: "What both did goes together by itself into a new folder, but for two conflicts.",
        arguments: &["merge", "spring", "keeper", "office", "-o", "merged", "--go"],
    },
    Stop { says: "Where is something left to decide?", arguments: &["merge", "--unresolved", "merged"] },
    Stop {
        says: "The spring edition as it was sent around: a zip archive stands for its folder.",
        arguments: &["compare", "--exclude", "scripts,levels,notes,forms", "spring.zip", "autumn"],
    },
    Stop {
        says: "A repository holds both editions, and somebody works in it. What became different since the last commit?",
        arguments: &["compare", "--repository", REPOSITORY, "git:HEAD", REPOSITORY],
    },
    Stop {
        says: "And between the two commits, in one file?",
        arguments: &["compare", "--repository", REPOSITORY, "git:HEAD~1", "git:HEAD", "skerry-light.toml"],
    },
    Stop {
        says: "What a folder holds can be written down, to see later what became of it.",
        arguments: &["inventory", "spring", "-o", "spring.jsonl"],
    },
    Stop { says: "Here, of another copy.", arguments: &["inventory", "--check", "spring.jsonl", "copy"] },
    Stop {
        says: "And for scripts: nothing is printed, the exit status tells (0 same, 1 different, 2 it could not be told).",
        arguments: &["compare", "--quiet", "spring/stations/harbour-mouth.toml", "spring/stations/harbour-mouth.toml"],
    },
];

//! References that are made out of the program: `UPDATE_DOCS=1 cargo test -p splimo --test references` writes them anew.

use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use splimo_show::Show;
use splimo_show::command::{COMMANDS, CommandInfo};

fn page_at(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs").join(name)
}

/// Compares a page with what it is to be, or writes it.
fn is_up_to_date(name: &str, page: &str) {
    let path = page_at(name);
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(&path, page).expect("it is written");
    }
    let written = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(written == page, "docs/{name} is not that of the program: UPDATE_DOCS=1 writes it anew");
}

/// An example of what stands behind the address of a command.
fn example(info: &CommandInfo) -> String {
    let argument = info.argument.map_or("", |argument| argument.name);
    let behind = match argument {
        "" => "",
        "pad" => " 3",
        "look" => " \"top/Tide\"",
        "tier" => " \"top\"",
        "level" => " \"top\" 60.0",
        "percent" | "bpm" | "hundredths" | "seconds" | "times" => " 60.0",
        "on" => " \"on\"",
        "file" => " \"night.splimo\"",
        _ => " ...",
    };
    format!("`/splimo/{}{behind}`", info.name)
}

#[test]
fn every_address_of_osc_is_told() {
    let mut page = "# OSC\n\n\
        A command is at `/splimo/` and its name. What it takes stands behind it in the address or comes as arguments: \
        `/splimo/tier-level/top 60.0` and `/splimo/tier-level \"top\" 60.0` are one. A button that sends 1 and 0 presses and lets go: \
        `/splimo/hold-pad/3`. What takes a value and comes without one is a question, which is answered at the same address: `/splimo/master` \
        gives `/splimo/master 80.0`. Bundles wait for their time tags; patterns (`*`, `?`, `[]`, `{}`) mean every bound address that they fit. \
        `/splimo/beat n`, `/splimo/tempo bpm`, `/splimo/tap` and `/splimo/stop` lead the clock.\n\n\
        An input listens where the show says so ([inputs.md](inputs.md)):\n\n```toml\n[[inputs]]\nname = \"tablet\"\nkind = \"osc\"\n\
        address = \"0.0.0.0:9000\"\non = true\nfrom = [\"10.0.0.5\"]\n```\n\n\
        Any other address is an event that a binding may take: `event = \"/any/path\"`. Numbers are `f`, `d`, `i`, `h`, `T` and `F` of OSC 1.0; \
        packets come by UDP, or by TCP with their length before them or in SLIP (OSC 1.1). What goes out is told there too, under values out.\n\n\
        This page is made out of the list of commands (`crates/app/tests/references.rs`).\n\n\
        | address | takes | does | as |\n|---|---|---|---|\n"
        .to_owned();
    for info in COMMANDS.iter().filter(|info| info.is_for_people()) {
        let takes = info.argument.map_or("", |argument| argument.takes).replace('|', "\\|");
        let _ = writeln!(page, "| `/splimo/{}` | {takes} | {} | {} |", info.name, info.help(), example(info));
    }
    is_up_to_date("osc.md", &page);
}

#[test]
fn every_channel_by_which_a_desk_plays_is_told() {
    let mut page = "# Splimo as a fixture of a desk\n\n\
        An input of Art-Net or sACN with a layout gives a desk channels to play with. `splimo draw SHOW --what remote --out remote.pdf` (or \
        `.csv`) prints those of a show with its own looks, `--out splimo.gdtf` writes the fixture file that desks load (DIN SPEC 15800).\n\n\
        ```toml\n[[inputs]]\nname = \"desk\"\nkind = \"sacn\"\naddress = \"101\"\non = true\nremote = { layout = \"compact\", first = 201 }\n```\n\n\
        Below are both layouts from slot 1 on, of a show with no looks yet. A look has four values in the order of the list: one that is added \
        at the end moves none. What a channel moves gives way to a hand, and takes it back when it is moved again ([inputs.md](inputs.md)).\n\n\
        This page is made out of the layouts (`crates/app/tests/references.rs`).\n"
        .to_owned();
    let show = Show::empty("Any");
    let mut last = String::new();
    for row in splimo_draw::remote_rows(&show) {
        if row.input != last {
            let _ = write!(page, "\n## {}\n\n| slot | | values |\n|---|---|---|\n", row.input);
            last.clone_from(&row.input);
        }
        let values: Vec<String> =
            row.ranges.iter().map(|range| format!("{}-{} {}", range.from, range.to, range.does)).collect();
        let _ = writeln!(page, "| {} | {} | {} |", row.channel, row.name, values.join("; ").replace('|', "\\|"));
    }
    is_up_to_date("remote.md", &page);
}

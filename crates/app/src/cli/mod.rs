//! The command line. With `--json` one document goes to standard output and nothing else; messages go to standard error.
//! Exit codes: 0 done, 1 it failed or problems were found, 2 wrong usage, 3 it ran, and something of its output failed.

#[macro_use]
mod said;

mod attach;
mod bench;
mod check;
mod completions;
mod config;
mod cues;
mod draw;
mod effect_docs;
mod effects;
mod fonts;
mod hear;
mod help;
mod inputs;
mod launch;
mod log_file;
mod logging;
mod machine;
mod manual;
mod mend;
mod music;
mod node;
mod nodes;
mod opening;
mod picture;
mod play;
mod progress;
mod recent;
mod render;
mod sessions;
mod sim;
mod span;
mod standard;
mod start;
mod stop;
mod troubles;
mod tutorial;
mod wrong_usage;

use inputs::InputArguments;
use std::path::PathBuf;
use std::process::ExitCode;

use clap::{CommandFactory, Parser, Subcommand};

pub use span::Span;

use splimo_runtime::sound::Channels;

/// The reason why a command failed, as a person is told.
pub type Failure = Box<dyn std::error::Error>;

#[derive(Parser)]
#[command(
    name = "splimo",
    version,
    about = "Pixel-mapped, music-aware light for stages, from a terminal",
    after_help = help::PROGRAM,
    max_term_width = 100
)]
struct Arguments {
    /// Tell more in the log, and on standard error where there is no screen; twice tells most
    #[arg(short, long, global = true, action = clap::ArgAction::Count)]
    verbose: u8,
    /// Levels of the log: error, warn, info, debug, trace, or those by crate, such as "info,splimo_runtime=debug"
    #[arg(long, global = true, value_name = "LEVELS", value_parser = logging::levels)]
    log: Option<String>,
    #[command(subcommand)]
    command: Option<Command>,
}

#[derive(Subcommand)]
enum Command {
    /// Play the demo show with its synthesised DJ set and its stand-in nodes
    #[command(after_help = help::DEMO)]
    Demo {
        /// Without a screen; a report at the end
        #[arg(long)]
        headless: bool,
        /// End the show with its last screen, however that goes away
        #[arg(long, conflicts_with = "headless")]
        with_screen: bool,
        #[command(flatten)]
        run: RunArguments,
    },
    /// Open a show full-screen: start a session for it in a process of its own, or join the one that runs
    #[command(after_help = help::OPEN)]
    Open {
        /// The show's file; where there is none yet, an empty show is begun
        show: PathBuf,
        /// A recording (WAV, AIFF, FLAC, MP3, OGG, M4A), a capture device, "-" or "raw:PATH,RATE,CHANNELS,s16|f32" for raw samples,
        /// "set" for the synthesised DJ set, or "none"
        #[arg(long, default_value = "none")]
        audio: String,
        /// Which channels of it are heard: mono, left, right, 3, or 3+4
        #[arg(long, default_value = "mono")]
        channels: Channels,
        /// The look to begin with
        #[arg(long)]
        look: Option<String>,
        /// End the show with its last screen, however that goes away
        #[arg(long)]
        with_screen: bool,
        #[command(flatten)]
        mend: mend::MendArguments,
        #[command(flatten)]
        inputs: InputArguments,
    },
    /// Learn it in fifteen minutes: from nothing to a small show on stand-in nodes, step by step
    Tutorial {
        /// The file of the show that is made; without it, tutorial.splimo in this folder
        show: Option<PathBuf>,
    },
    /// Show a running session on this terminal
    Attach {
        /// The name of the session; without one, the only one that runs
        name: Option<String>,
    },
    /// List the sessions that run on this machine
    Sessions {
        /// As a JSON document; "since" is in seconds since 1970 (UTC)
        #[arg(long)]
        json: bool,
    },
    /// Send one command to a running session, such as "fire-pad 3" or "blackout"
    #[command(after_help = sessions::all_commands())]
    Do {
        /// The name of the session; without one, the only one that runs
        #[arg(long)]
        session: Option<String>,
        /// The command, and its argument behind it
        #[arg(required = true, num_args = 1.., trailing_var_arg = true, allow_hyphen_values = true)]
        command: Vec<String>,
    },
    /// Be the process of a session
    #[command(hide = true)]
    Session(launch::SessionArguments),
    /// Play a show without a screen; screens may be attached to it
    #[command(after_help = help::RUN)]
    Run {
        /// The show's file, or "-" for standard input
        show: PathBuf,
        /// Let a recording (pcapng or pcap) leave through the routes of the show, in the place of looks
        #[arg(long, value_name = "FILE", conflicts_with_all = ["look", "audio"])]
        replay: Option<PathBuf>,
        #[command(flatten)]
        run: RunArguments,
    },
    /// Tell every problem of a show, with its place and its mend; or what this machine does not give to one, and how to grant it
    #[command(after_help = help::CHECK)]
    Check {
        /// The show's file, or "-" for standard input
        #[arg(required_unless_present = "machine")]
        show: Option<PathBuf>,
        /// Tell of this machine: priority, memory, timing
        #[arg(long, conflicts_with = "show")]
        machine: bool,
        /// As a JSON document
        #[arg(long)]
        json: bool,
        /// Fail where there are warnings, too
        #[arg(long)]
        strict: bool,
    },
    /// Render a look to a picture, an animation or raw universes
    #[command(after_help = help::RENDER)]
    Render(render::RenderArguments),
    /// Write a cue list as a CSV sheet, or read one
    #[command(after_help = help::CUES)]
    Cues(cues::CuesArguments),
    /// Draw a show, or what is heard in a recording, for print
    #[command(after_help = help::DRAW)]
    Draw {
        /// The show's file, or "-" for standard input; for hearing, the recording
        show: PathBuf,
        /// Drawing to make
        #[arg(long)]
        what: draw::What,
        /// File to write: .pdf, or .svg (one file a page); for remote also .csv and .gdtf; "-" is standard output
        #[arg(long)]
        out: PathBuf,
        /// Kind of file, where its name does not tell
        #[arg(long = "as", value_name = "KIND")]
        kind: Option<draw::Kind>,
    },
    /// Tell what is heard in a recording: tempo, beats, bars, onsets, key, parts
    #[command(after_help = help::HEAR)]
    Hear {
        /// The recording, or "-" for standard input: WAV, AIFF, FLAC, MP3, OGG (Vorbis, Opus) or M4A (AAC, ALAC)
        file: PathBuf,
        /// As a JSON document
        #[arg(long)]
        json: bool,
    },
    /// Be a lighting node: answer discovery, receive Art-Net and sACN, and show what came
    Node(node::Arguments),
    /// Be a pad controller, a lighting desk or a DJ program, for practice and for tests
    Sim {
        #[command(subcommand)]
        device: sim::Device,
    },
    /// List what answers on the network
    Nodes {
        /// The time that answers are waited for
        #[arg(long, default_value_t = 3.5)]
        seconds: f64,
        /// As a JSON document
        #[arg(long)]
        json: bool,
    },
    /// Measure what this machine can hold
    Bench {
        /// The number of universes of 170 RGB lights
        #[arg(long, default_value_t = 1000, value_parser = clap::value_parser!(u32).range(1..=20_000))]
        universes: u32,
        /// Number of layers
        #[arg(long, default_value_t = 4, value_parser = clap::value_parser!(u32).range(1..=64))]
        layers: u32,
        /// Over how many tiers the layers lie, a look on each
        #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u32).range(1..=16))]
        tiers: u32,
        /// Length of the run, in seconds
        #[arg(long, default_value_t = 10.0)]
        seconds: f64,
        /// As a JSON document
        #[arg(long)]
        json: bool,
    },
    /// List the effects and their parameters
    Effects {
        /// As a JSON document
        #[arg(long)]
        json: bool,
        /// Write effects.md and effects.png into this folder instead
        #[arg(long, conflicts_with = "json")]
        docs: Option<PathBuf>,
    },
    /// Print a file with every choice and key as it is, to begin one's own with
    #[command(after_help = help::CONFIG)]
    Config(config::ConfigArguments),
    /// Write what a shell needs to complete the words of this program
    #[command(after_help = help::COMPLETIONS)]
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },
    /// Write the manual page, or all of them into a folder
    Manual {
        /// The folder that gets a page of each command
        #[arg(long)]
        out: Option<PathBuf>,
    },
}

#[derive(clap::Args)]
struct RunArguments {
    /// Length of the run, such as 30s, 5m or 1h; without it, until Ctrl-C
    #[arg(long = "for", value_name = "TIME")]
    span: Option<Span>,
    /// The look to play; without it, the first
    #[arg(long)]
    look: Option<String>,
    /// A recording (WAV, AIFF, FLAC, MP3, OGG, M4A), a capture device, "-" or "raw:PATH,RATE,CHANNELS,s16|f32" for raw samples,
    /// "set" for the synthesised DJ set, or "none"
    #[arg(long)]
    audio: Option<String>,
    /// Which channels of it are heard: mono, left, right, 3, or 3+4
    #[arg(long, default_value = "mono")]
    channels: Channels,
    #[command(flatten)]
    inputs: InputArguments,
    /// Record what leaves into a file (pcapng)
    #[arg(long, value_name = "FILE")]
    record: Option<PathBuf>,
    /// The report as a JSON document
    #[arg(long)]
    json: bool,
}

/// Runs the program on the arguments of its process.
#[must_use]
pub fn main() -> ExitCode {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => {
            // Help and version were asked for; anything else is wrong usage.
            let code = if error.use_stderr() { 2 } else { 0 };
            match wrong_usage::told(&error, &Arguments::command(), std::env::args_os()) {
                Some(words) => say_aside!("splimo: {words}"),
                None => _ = error.print(),
            }
            return ExitCode::from(code);
        }
    };
    let has_screen = arguments.command.as_ref().is_none_or(Command::has_screen);
    logging::start(arguments.log.as_deref(), arguments.verbose, has_screen);
    let done = match arguments.command {
        Some(command) => run(command),
        None => start::run(),
    };
    match done {
        Ok(code) => code,
        Err(failure) if failure.is::<launch::Silent>() => ExitCode::FAILURE,
        Err(failure) => {
            tracing::error!("{failure}");
            say_aside!("splimo: {failure}");
            ExitCode::FAILURE
        }
    }
}

impl Command {
    /// True if it takes the terminal for a screen, on which nothing else may be written.
    fn has_screen(&self) -> bool {
        use std::io::IsTerminal;
        match self {
            Self::Demo { headless, .. } => !headless,
            Self::Open { .. } | Self::Attach { .. } | Self::Tutorial { .. } => true,
            Self::Node(_) | Self::Sim { .. } => std::io::stdout().is_terminal(),
            Self::Session(_) => true,
            Self::Sessions { .. }
            | Self::Do { .. }
            | Self::Run { .. }
            | Self::Check { .. }
            | Self::Render(_)
            | Self::Cues(_)
            | Self::Draw { .. }
            | Self::Hear { .. }
            | Self::Nodes { .. }
            | Self::Bench { .. }
            | Self::Effects { .. }
            | Self::Config(_)
            | Self::Completions { .. }
            | Self::Manual { .. } => false,
        }
    }
}

fn run(command: Command) -> Result<ExitCode, Failure> {
    match command {
        Command::Demo { headless, with_screen, run } => play::demo(headless, with_screen, &run),
        Command::Open { show, audio, channels, look, with_screen, mend, inputs } => {
            let arguments = launch::SessionArguments {
                show: Some(show),
                audio,
                channels,
                look,
                with_screen,
                span: None,
                node: None,
                inputs,
            };
            play::open(arguments, mend)
        }
        Command::Tutorial { show } => tutorial::of(show.as_deref()),
        Command::Attach { name } => play::attach(name.as_deref()),
        Command::Sessions { json } => sessions::list(json),
        Command::Do { session, command } => sessions::send(session.as_deref(), &command),
        Command::Session(arguments) => launch::run(&arguments),
        Command::Run { show, replay, run } => play::run(&show, replay.as_deref(), &run),
        Command::Check { show: Some(show), json, strict, .. } => check::run(&show, json, strict),
        Command::Check { show: None, json, strict, .. } => machine::run(json, strict),
        Command::Render(arguments) => render::run(&arguments),
        Command::Cues(arguments) => cues::run(&arguments),
        Command::Draw { show, what, out, kind } => draw::run(&show, what, &out, kind),
        Command::Hear { file, json } => hear::run(&file, json),
        Command::Node(arguments) => node::run(&arguments),
        Command::Sim { device } => sim::run(&device),
        Command::Nodes { seconds, json } => nodes::run(seconds, json),
        Command::Bench { universes, layers, tiers, seconds, json } => {
            bench::run(bench::Load { universes, layers, tiers }, seconds, json)
        }
        Command::Effects { json, docs } => effects::run(json, docs.as_deref()),
        Command::Config(arguments) => config::run(arguments),
        Command::Completions { shell } => completions::run(shell),
        Command::Manual { out } => manual::run(out.as_deref()),
    }
}

/// The version of the documents of `--json` (docs/json.md): another where something of them goes or becomes something else.
const JSON_VERSION: u32 = 1;

/// Prints the one document of `--json`; one that is an object says its version first.
fn print_json(document: &impl serde::Serialize) -> Result<(), Failure> {
    let mut value = serde_json::to_value(document)?;
    if let serde_json::Value::Object(fields) = &mut value {
        fields.shift_insert(0, "version".to_owned(), JSON_VERSION.into());
    }
    say!("{}", serde_json::to_string_pretty(&value)?);
    Ok(())
}

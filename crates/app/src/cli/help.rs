//! The foot of helps and manual pages: examples, exit codes, the environment and files.

pub(super) const PROGRAM: &str = "\
Examples:
  splimo demo                                    a made-up night, with its own music and its own nodes
  splimo open hall.splimo --audio default        a show, heard by the default capture device
  splimo do blackout                             one command to the session that runs
  splimo check hall.splimo && splimo run hall.splimo --for 1h

Exit codes:
  0  done
  1  it failed, or problems were found
  2  wrong usage
  3  it ran, and something of its output failed (--json lists the troubles)

Environment:
  RUST_LOG          what the log has, where --log does not say it
  NO_COLOR          a screen without colours, where it is set
  COLORTERM, TERM   how many colours a screen has (truecolor, 256, 16 or none)
  LC_ALL, LC_CTYPE, LANG
                    plain ASCII on screens where they are not of UTF-8
  XDG_CONFIG_HOME   splimo/config.toml in it is read (~/.config; `splimo config` prints it)
  XDG_STATE_HOME    splimo/ in it has the log, the night logs and what a crash leaves (~/.local/state)
  XDG_RUNTIME_DIR   splimo/ in it has the sockets of the sessions (/tmp/splimo-UID without)";

pub(super) const DEMO: &str = "\
Examples:
  splimo demo
  splimo demo --headless --for 10s --json        a report of what its nodes saw
  splimo demo --audio set.flac --look Tide";

pub(super) const OPEN: &str = "\
Examples:
  splimo open new.splimo                         a new show; the first save makes its file
  splimo open hall.splimo --audio default
  parec --format=s16le --rate=48000 --channels=2 | splimo open hall.splimo --audio -
  splimo open broken.splimo --rest               what can be read of it, as a file of its own";

pub(super) const RUN: &str = "\
Examples:
  splimo run window.splimo                       until Ctrl-C or SIGTERM
  splimo run hall.splimo --for 30s --json        a report at the end
  splimo run hall.splimo --record night.pcapng
  splimo run hall.splimo --replay night.pcapng";

pub(super) const CHECK: &str = "\
Examples:
  splimo check hall.splimo
  git show HEAD:hall.splimo | splimo check - --strict
  splimo check --machine                         what this machine does not give to a show";

pub(super) const RENDER: &str = "\
Examples:
  splimo render demo --look Tide --out tide.gif
  splimo render hall.splimo --look Squall --seconds 60 --audio set.mp3 --out squall.gif
  splimo render hall.splimo --look Tide --as png --out - > tide.png";

pub(super) const CUES: &str = "\
Examples:
  splimo cues hall.splimo                        the first list, on standard output
  splimo cues hall.splimo --list Act --write act.csv
  splimo cues hall.splimo --list Act --read act.csv --keep";

pub(super) const DRAW: &str = "\
Examples:
  splimo draw hall.splimo --what wiring --out wiring.pdf
  splimo draw hall.splimo --what patch --out - | lp
  splimo draw set.flac --what hearing --out heard.pdf";

pub(super) const HEAR: &str = "\
Examples:
  splimo hear set.flac
  splimo hear set.flac --json | jq .tempo_bpm
  ffmpeg -i film.mkv -f wav - | splimo hear -";

pub(super) const COMPLETIONS: &str = "\
Examples:
  splimo completions bash > ~/.local/share/bash-completion/completions/splimo
  splimo completions zsh > \"${fpath[1]}/_splimo\"
  splimo completions fish > ~/.config/fish/completions/splimo.fish";

pub(super) const CONFIG: &str = "\
Examples:
  splimo config > ~/.config/splimo/config.toml   a file to begin with; what is in it counts from the next start on
  splimo config --check";

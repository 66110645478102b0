//! The program `splimo`.

fn main() -> std::process::ExitCode {
    splimo::cli::main()
}

//! Hausblatt on the command line: what was typed becomes a question to the core, and its answer is shown.

mod cli;
mod clock;
mod cmd;
mod demo;
mod failure;
mod opened;
mod show;

use std::process::ExitCode;

use clap::Parser;

fn main() -> ExitCode {
    let cli = cli::Cli::parse();
    show::style::choose(cli.common.color);
    let answer = match &cli.command {
        cli::Command::Demo(args) => cmd::demo::run(&cli.common, args),
        cli::Command::Resolve(args) => cmd::resolve::run(&cli.common, args),
        cli::Command::Map(args) => cmd::map::run(&cli.common, args),
        cli::Command::Values(args) => cmd::values::run(&cli.common, args),
        cli::Command::Render(args) => cmd::render::run(&cli.common, args),
        cli::Command::Build(args) => cmd::build::run(&cli.common, args),
    };
    match answer {
        Ok(true) => ExitCode::SUCCESS,
        Ok(false) => ExitCode::from(1),
        Err(failure) => failure.report(),
    }
}

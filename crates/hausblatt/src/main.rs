//! Hausblatt on the command line: what was typed becomes a question to the core, and its answer is shown.

mod cli;
mod clock;
mod cmd;
mod complete;
mod demo;
mod failure;
mod html;
mod lsp;
#[cfg(test)]
mod manual;
mod opened;
mod options;
mod running;
mod serve;
mod show;

use std::process::ExitCode;

use clap_complete::CompleteEnv;
use mimalloc::MiMalloc;

/// A site is read into many small pieces, for which the system's own allocator takes twice as long. Of its two versions the
/// second, which gives back what is freed within milliseconds and not a second later.
#[global_allocator]
static ALLOCATOR: MiMalloc = MiMalloc;

fn main() -> ExitCode {
    // A shell that asks what can be typed is answered, and nothing else is done.
    complete::note_shell();
    CompleteEnv::with_factory(cli::Cli::line).var(complete::VARIABLE).complete();
    let cli = cli::Cli::typed();
    show::style::choose(cli.common.color);
    show::style::suggest_with(cli.common.site.as_deref(), cli.common.theme.as_deref());
    let answer = match &cli.command {
        cli::Command::Demo(args) => cmd::demo::run(&cli.common, args),
        cli::Command::Start(args) => cmd::start::run(&cli.common, args),
        cli::Command::Resolve(args) => cmd::resolve::run(&cli.common, args),
        cli::Command::Map(args) => cmd::map::run(&cli.common, args),
        cli::Command::Reach(args) => cmd::reach::run(&cli.common, args),
        cli::Command::Themes(_) => cmd::themes::run(&cli.common),
        cli::Command::Files(_) => cmd::files::run(&cli.common),
        cli::Command::Override(args) => cmd::overriding::run(&cli.common, args),
        cli::Command::Choose(args) => cmd::editing::choose::run(&cli.common, args),
        cli::Command::Set(args) => cmd::editing::set::run(&cli.common, args),
        cli::Command::Suppose(args) => cmd::suppose::run(&cli.common, args),
        cli::Command::Drift(args) => cmd::drift::run(&cli.common, args),
        cli::Command::Rename(args) => cmd::changing::rename::run(&cli.common, args),
        cli::Command::Extend(args) => cmd::changing::extend::run(&cli.common, args),
        cli::Command::Move(args) => cmd::changing::moving::run(&cli.common, args),
        cli::Command::Extract(args) => cmd::changing::extract::run(&cli.common, args),
        cli::Command::Neaten(args) => cmd::changing::neaten::run(&cli.common, args),
        cli::Command::Undo(args) => cmd::editing::undo::run(&cli.common, args),
        cli::Command::Values(args) => cmd::values::run(&cli.common, args),
        cli::Command::Render(args) => cmd::render::run(&cli.common, args),
        cli::Command::Build(args) => cmd::build::run(&cli.common, args),
        cli::Command::Check(args) => cmd::check::run(&cli.common, args),
        cli::Command::Rehearse(args) => cmd::rehearse::run(&cli.common, args),
        cli::Command::Needs(args) => cmd::needs::run(&cli.common, args),
        cli::Command::Pack(args) => cmd::pack::run(&cli.common, args),
        cli::Command::Expect(args) => cmd::expect::run(&cli.common, args),
        cli::Command::Missed(args) => cmd::missed::run(&cli.common, args),
        cli::Command::Chart(args) => cmd::chart::run(&cli.common, args),
        cli::Command::Serve(args) => cmd::serve::run(&cli.common, args),
        cli::Command::Lsp => lsp::run(&cli.common),
    };
    match answer {
        Ok(failure::Outcome::Clean) => ExitCode::SUCCESS,
        Ok(failure::Outcome::Findings) => ExitCode::from(1),
        Err(failure) => cmd::report(failure, &cli.common, matches!(cli.command, cli::Command::Check(_))),
    }
}

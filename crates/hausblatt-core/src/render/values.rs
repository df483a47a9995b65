//! The values that a template would see at an address, and any value of the language evaluated there.

use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::compile::compile_value;
use hausblatt_lang::render::{Stop, evaluate, prepared};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::value::dump::{Described, Detail, describe};

use crate::lookup::resolution::Resolution;
use crate::render::page::{Audience, job};
use crate::world::World;

/// The path that diagnostics about a typed value name.
pub const TYPED: &str = "the value";

/// The global values, by name, in their order.
///
/// # Errors
/// The error of a prepare file.
pub fn all(
    world: &World,
    resolution: &Resolution,
    detail: Detail,
) -> Result<Vec<(String, Described)>, Vec<Diagnostic>> {
    let arena = Bump::new();
    let job = job(world, resolution, Audience::Visitor, &arena);
    let told = prepared(&job, &arena, |values, scratch| {
        let described = values.iter().map(|&value| describe(value, &world.symbols, scratch, detail));
        world.globals.names().map(str::to_owned).zip(described).collect()
    });
    told.map_err(|stop| problems(*stop))
}

/// The value `text`, evaluated as a template would, and what was noticed.
///
/// # Errors
/// What is wrong with it.
pub fn one(
    world: &World,
    resolution: &Resolution,
    text: &str,
    detail: Detail,
) -> Result<(Described, Vec<Diagnostic>), Vec<Diagnostic>> {
    let path: Arc<str> = TYPED.into();
    let mut symbols = world.symbols.clone();
    let compiled = compile_value(&path, text, &world.globals, &mut symbols);
    if !compiled.is_sound {
        return Err(compiled.diagnostics);
    }
    let arena = Bump::new();
    let job = job(world, resolution, Audience::Visitor, &arena);
    let told = evaluate(&job, &arena, &compiled.program, |value, scratch| describe(value, &symbols, scratch, detail));
    let (described, warnings) = told.map_err(|stop| problems(*stop))?;
    Ok((described, compiled.diagnostics.into_iter().chain(warnings).collect()))
}

fn problems(stop: Stop) -> Vec<Diagnostic> {
    match stop {
        Stop::Problem(problem) => vec![*problem],
        Stop::Answer { .. } | Stop::Redirect { .. } => Vec::new(),
    }
}

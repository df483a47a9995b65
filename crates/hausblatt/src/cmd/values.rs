//! `values`: what a template sees at an address.

use std::collections::BTreeMap;

use hausblatt_core::files::Depth;
use hausblatt_core::lookup::resolution::Resolution;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::values;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::value::dump::{Described, Detail};
use serde::Serialize;

use crate::cli::ValuesArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::{diagnostics, values as shown};

/// All global values as JSON.
#[derive(Serialize)]
struct AllJson {
    address: String,
    values: BTreeMap<String, ValueJson>,
}

/// One value as JSON.
#[derive(Serialize)]
struct OneJson {
    address: String,
    asked: String,
    value: ValueJson,
}

/// A value and its members as JSON.
#[derive(Serialize)]
struct ValueJson {
    #[serde(rename = "type")]
    kind: String,
    text: Option<String>,
    members: Vec<MemberJson>,
    more: usize,
}

/// A member and its name, in the value's order.
#[derive(Serialize)]
struct MemberJson {
    name: String,
    #[serde(flatten)]
    value: ValueJson,
}

/// Runs the command.
pub fn run(common: &Common, args: &ValuesArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Whole)?;
    let address = opened::address(world, &args.address)?;
    let path = hausblatt_core::text::address::asked(&address).path;
    let request = match world.route(&address) {
        Routed::Request(request) => request,
        Routed::Redirect(to) => {
            let message = format!("{path} redirects, and no template sees anything there");
            return Err(Failure::Work(message, Some(format!("name {to}"))));
        }
    };
    let resolution = world.resolve(request);
    let found = match &args.value {
        Some(value) => one(common, world, &resolution, &path, value),
        None => all(common, world, &resolution, &path),
    };
    match found? {
        Ok(mut noticed) => {
            // A value may be empty for an error of the content, or since a text can't be read.
            let errors = world.problems_of(&resolution).into_iter().filter(|problem| problem.is_error());
            let unreadable = world.problems.iter().filter(|problem| problem.code == "unreadable");
            for problem in errors.chain(unreadable) {
                if !noticed.contains(problem) {
                    noticed.push(problem.clone());
                }
            }
            Ok(show(world, args, common, &noticed))
        }
        Err(problems) => Ok(show(world, args, common, &problems)),
    }
}

type Told = Result<Result<Vec<Diagnostic>, Vec<Diagnostic>>, Failure>;

fn all(common: &Common, world: &World, resolution: &Resolution, path: &str) -> Told {
    let detail = Detail { depth: 2, members: 40, characters: 400 };
    let values = match values::all(world, resolution, detail) {
        Ok(values) => values,
        Err(problems) => return Ok(Err(problems)),
    };
    if common.format == Format::Json {
        let values = values.into_iter().map(|(name, value)| (name, value_json(value))).collect();
        json(&AllJson { address: path.to_owned(), values })?;
    } else {
        print(&shown::all(&values))?;
    }
    Ok(Ok(Vec::new()))
}

fn one(common: &Common, world: &World, resolution: &Resolution, path: &str, value: &str) -> Told {
    let (described, noticed) = match values::one(world, resolution, value, Detail { depth: 2, ..Detail::default() }) {
        Ok(found) => found,
        Err(problems) => return Ok(Err(problems)),
    };
    if common.format == Format::Json {
        json(&OneJson { address: path.to_owned(), asked: value.to_owned(), value: value_json(described) })?;
    } else {
        print(&shown::one(&described))?;
    }
    Ok(Ok(noticed))
}

fn value_json(value: Described) -> ValueJson {
    let members = value.members.into_iter().map(|(name, value)| MemberJson { name, value: value_json(value) });
    ValueJson { kind: value.kind, text: value.text, members: members.collect(), more: value.more }
}

/// Shows diagnostics, those about the typed value with an excerpt of it.
fn show(world: &World, args: &ValuesArgs, common: &Common, found: &[Diagnostic]) -> Outcome {
    let texts = world.snapshot.with(values::TYPED, Some(args.value.as_deref().unwrap_or("")));
    diagnostics::show(&texts, found, common);
    Outcome::of(!found.iter().any(|diagnostic| diagnostic.is_error() || common.strict))
}

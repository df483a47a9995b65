//! Queries: lists filtered, grouped, ordered and cut. What does not depend on the request is evaluated once; what
//! looks for one value of a field uses an index.

use std::cmp::Ordering;

use bumpalo::Bump;
use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::Xxh3;

use crate::program::memory::{Index, ResultRow, key};
use crate::program::{Code, Program, QueryPlan};
use crate::render::{Halt, Job, Renderer};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::value::arithmetic::ordered;
use crate::value::context::Context;
use crate::value::dependencies::{Dependency, apart, in_known_order, note_program};
use crate::value::distinct::Distinct;
use crate::value::host::Host;
use crate::value::members::{ITEMS, KEY, no_amount};
use crate::value::shape::Symbol;
use crate::value::{Record, Scratch, Seq, Value};

/// A group of a query: its key and its members.
struct Group<'v> {
    key: Value<'v>,
    items: Value<'v>,
}

impl Record for Group<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match symbol {
            KEY => self.key,
            ITEMS => self.items,
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![KEY, ITEMS]
    }
}

/// Some members of a list, by their numbers.
struct Chosen<'v> {
    list: Value<'v>,
    numbers: &'v [u32],
}

impl Seq for Chosen<'_> {
    fn len(&self) -> usize {
        self.numbers.len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        let member = |&at: &u32| in_known_order(|| self.list.at(at as usize, scratch));
        self.numbers.get(index).map_or(Value::Nothing, member)
    }
}

/// A result that was evaluated before, of a query that does not group.
struct Remembered<'v> {
    list: Value<'v>,
    rows: &'v [ResultRow],
}

impl Seq for Remembered<'_> {
    fn len(&self) -> usize {
        self.rows.len()
    }

    fn at<'a>(&'a self, index: usize, scratch: &Scratch<'a>) -> Value<'a> {
        let member = |row: &ResultRow| in_known_order(|| self.list.at(row.at as usize, scratch));
        self.rows.get(index).map_or(Value::Nothing, member)
    }
}

impl<'a> Renderer<'_, 'a> {
    /// The result of a query.
    pub(crate) fn query(&mut self, program: &'a Program, code: Code, plan: &'a QueryPlan) -> Result<Value<'a>, Halt> {
        let list = self.value(program, plan.list)?;
        if matches!(list, Value::Nothing) {
            return Ok(Value::Nothing);
        }
        if !list.is_list() {
            let diagnostic =
                Diagnostic::of(&codes::NOT_A_LIST, format!("only a list can be queried, and this is {}", list.kind()));
            return Err(self.problem_at_code(program, plan.list, diagnostic));
        }
        if plan.is_constant
            && let Some(rows) = self.known_rows(program, plan)
        {
            let number = number_of(program, plan);
            note_program(&program.path, |path| Dependency::Rows(path, number));
            let result = self.remembered(program, plan, list, rows)?;
            return self.problem_or(program, code, Ok(result));
        }
        let rows = self.rows(program, plan, list)?;
        let values = rows.iter().map(|(_, value)| *value).collect::<Vec<_>>();
        let kept = self.scratch.list(&values);
        self.problem_or(program, code, Ok(Value::List(kept)))
    }

    /// The result that is the same for every request.
    fn known_rows<'p>(&self, program: &'p Program, plan: &'p QueryPlan) -> Option<&'p [ResultRow]> {
        plan.memory.rows.get_or_init(|| apart(|| self.find_once(program, plan))).as_deref()
    }

    /// Works a query out for all requests, apart from this page's budget. An error is left to the page to report.
    fn find_once(&self, program: &Program, plan: &QueryPlan) -> Option<Box<[ResultRow]>> {
        let arena = Bump::new();
        let mut apart = Renderer::apart(self.job, &arena, program);
        let list = apart.value(program, plan.list).ok()?;
        let rows = apart.rows(program, plan, list).ok()?;
        Some(rows.into_iter().map(|(row, _)| row).collect())
    }

    fn remembered(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        list: Value<'a>,
        rows: &'a [ResultRow],
    ) -> Result<Value<'a>, Halt> {
        let Some(group) = plan.group else {
            return Ok(Value::Seq(self.scratch.keep(Remembered { list, rows })));
        };
        let mut groups = Vec::with_capacity(rows.len());
        for row in rows {
            self.count_step(program, group)?;
            let member = in_known_order(|| list.at(row.at as usize, &self.scratch));
            self.set_slot(plan.slot, member);
            let key = self.value(program, group)?;
            let items = Chosen { list, numbers: row.group.as_deref().unwrap_or(&[]) };
            let items = Value::Seq(self.scratch.keep(items));
            groups.push(Value::Record(self.scratch.keep(Group { key, items })));
        }
        Ok(Value::List(self.scratch.list(&groups)))
    }

    fn rows(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        list: Value<'a>,
    ) -> Result<Vec<(ResultRow, Value<'a>)>, Halt> {
        let offset = self.amount(program, plan.offset)?.unwrap_or(0);
        let end = self.amount(program, plan.limit)?.map_or(usize::MAX, |limit| offset.saturating_add(limit));
        let sorted = self.presorted(program, plan);
        let is_sorted = plan.order.is_empty() || sorted.is_some();
        // In their final order, members after the last one that is wanted are not looked at.
        let most = if plan.group.is_none() && is_sorted { end } else { usize::MAX };
        let mut found = self.filtered(program, plan, list, (sorted, most))?;
        if let Some(key) = plan.group {
            found = self.grouped(program, plan, key, found)?;
        }
        let end = end.min(found.len());
        if !is_sorted {
            found = self.sorted(program, plan, found, end)?;
        }
        found.truncate(end);
        found.drain(..offset.min(end));
        Ok(found)
    }

    /// The members that the filter keeps, up to so many; in the order of the list, or of `sorted`.
    fn filtered(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        list: Value<'a>,
        (sorted, most): (Option<&'a [u32]>, usize),
    ) -> Result<Vec<(ResultRow, Value<'a>)>, Halt> {
        let indexed = self.candidates(program, plan, sorted)?;
        let candidates = indexed.or(sorted);
        if indexed.is_none() && sorted.is_some() {
            let number = number_of(program, plan);
            note_program(&program.path, |path| Dependency::Order(path, number));
        }
        let count = candidates.map_or_else(|| list.len().unwrap_or(0), <[u32]>::len);
        let mut found = Vec::new();
        for number in 0..count {
            if found.len() >= most {
                break;
            }
            self.count_step(program, plan.list)?;
            let (at, member) = match candidates {
                Some(candidates) => {
                    let at = candidates[number] as usize;
                    (at, in_known_order(|| list.at(at, &self.scratch)))
                }
                None => (number, list.at(number, &self.scratch)),
            };
            let keep = match plan.filter {
                Some(filter) => {
                    self.set_slot(plan.slot, member);
                    self.value(program, filter)?.truth()
                }
                None => true,
            };
            if keep {
                found.push((ResultRow { at: u32::try_from(at).unwrap_or(u32::MAX), group: None }, member));
            }
            if found.len().saturating_mul(size_of::<(ResultRow, Value<'_>)>()) > self.job.limits.bytes {
                return Err(self.over_memory(program, plan.list));
            }
        }
        Ok(found)
    }

    /// The numbers of all members in the order that the query puts them in, where that is the same for every request.
    fn presorted(&self, program: &'a Program, plan: &'a QueryPlan) -> Option<&'a [u32]> {
        let sorted = plan.presorts.then(|| plan.memory.sorted.get_or_init(|| apart(|| self.sort_once(program, plan))));
        sorted?.as_deref()
    }

    /// Puts all members in order, apart from this page's budget; none where they have no order, which only matters to a
    /// page that does not leave those out.
    fn sort_once(&self, program: &Program, plan: &QueryPlan) -> Option<Box<[u32]>> {
        let arena = Bump::new();
        let mut apart = Renderer::apart(self.job, &arena, program);
        let list = apart.value(program, plan.list).ok()?;
        let count = u32::try_from(list.len()?).ok()?;
        let row = |at: u32| (ResultRow { at, group: None }, list.at(at as usize, &apart.scratch));
        let all: Vec<_> = (0..count).map(row).collect();
        let sorted = apart.sorted(program, plan, all, count as usize).ok()?;
        Some(sorted.into_iter().map(|(row, _)| row.at).collect())
    }

    /// The members among which all that the filter keeps are, where an index knows them.
    fn candidates(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        sorted: Option<&[u32]>,
    ) -> Result<Option<&'a [u32]>, Halt> {
        let Some(lookup) = plan.lookup else { return Ok(None) };
        let index = plan.memory.index.get_or_init(|| apart(|| self.index_of(program, plan, sorted)));
        let Some(index) = index else { return Ok(None) };
        let wanted = self.value(program, lookup.wanted)?;
        let Some(key) = key(wanted) else { return Ok(None) };
        let (number, digest) = (number_of(program, plan), key.digest(self.job.host));
        note_program(&program.path, |path| Dependency::Indexed(path, number, digest));
        Ok(Some(index.get(&key).map_or(&[][..], Vec::as_slice)))
    }

    fn index_of(&self, program: &Program, plan: &QueryPlan, sorted: Option<&[u32]>) -> Option<Index> {
        let lookup = plan.lookup?;
        let arena = Bump::new();
        let mut apart = Renderer::apart(self.job, &arena, program);
        let list = apart.value(program, plan.list).ok()?;
        let mut index = Index::default();
        for at in 0..list.len()? {
            let number = sorted.map_or(u32::try_from(at).ok(), |sorted| sorted.get(at).copied())?;
            let member = list.at(number as usize, &apart.scratch);
            apart.set_slot(plan.slot, member);
            let value = apart.value(program, lookup.field).ok()?;
            let mut add = |value: Value<'_>| {
                let numbers = key(value).map(|key| index.entry(key).or_default());
                if let Some(numbers) = numbers.filter(|numbers| numbers.last() != Some(&number)) {
                    numbers.push(number);
                }
            };
            match value {
                Value::List(_) | Value::Seq(_) if lookup.has => value.members(&apart.scratch).for_each(&mut add),
                Value::Nothing => {}
                // A text has its parts, and a record its keys: no index of values knows them.
                _ if lookup.has => return None,
                _ => add(value),
            }
        }
        Some(index)
    }

    fn grouped(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        by: Code,
        found: Vec<(ResultRow, Value<'a>)>,
    ) -> Result<Vec<(ResultRow, Value<'a>)>, Halt> {
        let mut groups: Vec<(Value<'a>, Vec<(u32, Value<'a>)>)> = Vec::new();
        let mut known: FxHashMap<Distinct<'a>, usize> = FxHashMap::default();
        // Lists have no key that says them apart.
        let mut lists: Vec<usize> = Vec::new();
        for (row, member) in found {
            self.set_slot(plan.slot, member);
            let value = self.value(program, by)?;
            let key = Distinct::of(value);
            let place = match &key {
                Some(key) => known.get(key).copied(),
                None => {
                    self.count_steps(program, by, lists.len() as u64)?;
                    lists.iter().copied().find(|&at| groups[at].0.equals(value, &self.scratch))
                }
            };
            match place {
                Some(at) => groups[at].1.push((row.at, member)),
                None => {
                    match key {
                        Some(key) => drop(known.insert(key, groups.len())),
                        None => lists.push(groups.len()),
                    }
                    groups.push((value, vec![(row.at, member)]));
                }
            }
        }
        let group = |(key, items): (Value<'a>, Vec<(u32, Value<'a>)>)| {
            let (numbers, values): (Vec<u32>, Vec<Value<'a>>) = items.into_iter().unzip();
            let items = Value::List(self.scratch.list(&values));
            let value = Value::Record(self.scratch.keep(Group { key, items }));
            (ResultRow { at: numbers.first().copied().unwrap_or(0), group: Some(numbers.into()) }, value)
        };
        Ok(groups.into_iter().map(group).collect())
    }

    /// The rows in order; only the first `wanted` of them have to be.
    fn sorted(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        found: Vec<(ResultRow, Value<'a>)>,
        wanted: usize,
    ) -> Result<Vec<(ResultRow, Value<'a>)>, Halt> {
        let mut keyed = Vec::with_capacity(found.len());
        for (number, (row, member)) in found.into_iter().enumerate() {
            self.set_slot(plan.slot, member);
            let keys = plan.order.iter().map(|&(key, _)| self.value(program, key)).collect::<Result<Vec<_>, _>>()?;
            keyed.push((keys, number, row, member));
        }
        self.check_orders(program, plan, &keyed)?;
        let log = keyed.len().max(1).ilog2() as usize;
        self.scratch.spend(keyed.len() * log);
        if let Some(&(code, _)) = plan.order.first() {
            self.count_steps(program, code, 0)?;
        }
        let context = self.context();
        let mut compare = |a: &(Vec<Value<'a>>, usize, ResultRow, Value<'a>),
                           b: &(Vec<Value<'a>>, usize, ResultRow, Value<'a>)| {
            for ((&x, &y), &(_, descending)) in a.0.iter().zip(&b.0).zip(plan.order.iter()) {
                let order = key_order(&context, x, y, descending).unwrap_or(Ordering::Equal);
                if order.is_ne() {
                    return order;
                }
            }
            // What is equal stays in its order, also where only the first are looked for.
            a.1.cmp(&b.1)
        };
        if wanted > 0 && wanted < keyed.len() {
            keyed.select_nth_unstable_by(wanted - 1, &mut compare);
            keyed.truncate(wanted);
        }
        keyed.sort_by(&mut compare);
        if let Some(&(code, _)) = plan.order.first() {
            self.count_steps(program, code, 0)?;
        }
        Ok(keyed.into_iter().map(|(_, _, row, member)| (row, member)).collect())
    }

    /// Each key is of one type over all rows, so that any two have an order, at whatever length of the list.
    fn check_orders(
        &mut self,
        program: &'a Program,
        plan: &'a QueryPlan,
        keyed: &[(Vec<Value<'a>>, usize, ResultRow, Value<'a>)],
    ) -> Result<(), Halt> {
        for (at, &(code, _)) in plan.order.iter().enumerate() {
            let mut keys = keyed.iter().filter_map(|row| row.0.get(at)).filter(|key| !matches!(key, Value::Nothing));
            let Some(&first) = keys.next() else { continue };
            let odd = |key: &&Value<'a>| order_of(first).is_none() || order_of(**key) != order_of(first);
            let odd = if order_of(first).is_none() { Some(&first) } else { keys.find(odd) };
            if let Some(odd) = odd {
                let message = match order_of(first) {
                    Some(_) => format!("{} and {} have no order", first.kind(), odd.kind()),
                    None => format!("{0} and {0} have no order", odd.kind()),
                };
                return Err(self.problem_at_code(program, code, Diagnostic::of(&codes::BAD_VALUE, message)));
            }
        }
        Ok(())
    }

    fn amount(&mut self, program: &'a Program, code: Option<Code>) -> Result<Option<usize>, Halt> {
        let Some(code) = code else { return Ok(None) };
        match self.value(program, code)? {
            Value::Nothing => Ok(None),
            Value::Int(number) if number >= 0 => Ok(Some(usize::try_from(number).unwrap_or(usize::MAX))),
            other => {
                let diagnostic = Diagnostic::of(&codes::BAD_VALUE, no_amount(other));
                Err(self.problem_at_code(program, code, diagnostic))
            }
        }
    }
}

/// A digest of the result of a query that is the same for every request: of which members it has, in their order.
pub fn digest_of_rows<'a>(job: &Job<'a>, program: &'a Program, number: u32) -> u64 {
    apart_of_page(job, program, number, |renderer, plan, list| {
        let rows = renderer.known_rows(program, plan).filter(|_| plan.is_constant)?;
        let mut all = Xxh3::new();
        for row in rows {
            let group = row.group.as_deref();
            all.update(&group.map_or(u64::MAX, |group| group.len() as u64).to_le_bytes());
            for at in group.unwrap_or(std::slice::from_ref(&row.at)) {
                all.update(&lasting(job.host, list.at(*at as usize, &renderer.scratch), *at).to_le_bytes());
            }
        }
        Some(all.digest())
    })
}

/// A digest of the order of the list of a query.
pub fn digest_of_order<'a>(job: &Job<'a>, program: &'a Program, number: u32) -> u64 {
    apart_of_page(job, program, number, |renderer, plan, list| {
        let sorted = renderer.presorted(program, plan)?;
        Some(digest_of_members(job.host, list, sorted, &renderer.scratch))
    })
}

/// For the digest of each value that the index of a query knows, a digest of what it holds for it.
pub fn digests_of_index<'a>(job: &Job<'a>, program: &'a Program, number: u32) -> FxHashMap<u64, u64> {
    apart_of_page(job, program, number, |renderer, plan, list| {
        let sorted = renderer.presorted(program, plan);
        let index = plan.memory.index.get_or_init(|| renderer.index_of(program, plan, sorted)).as_ref()?;
        let held = index.iter().map(|(key, numbers)| {
            (key.digest(job.host), digest_of_members(job.host, list, numbers, &renderer.scratch))
        });
        Some(held.collect())
    })
}

/// What `then` makes of a query and its list, evaluated apart from any page; the default where there is none.
fn apart_of_page<'a, T: Default>(
    job: &Job<'a>,
    program: &'a Program,
    number: u32,
    then: impl FnOnce(&Renderer<'_, '_>, &'a QueryPlan, Value<'_>) -> Option<T>,
) -> T {
    let Some(plan) = program.queries.get(number as usize) else { return T::default() };
    apart(|| {
        let arena = Bump::new();
        let mut renderer = Renderer::apart(job, &arena, program);
        let list = renderer.value(program, plan.list).ok()?;
        then(&renderer, plan, list)
    })
    .unwrap_or_default()
}

fn digest_of_members(host: &dyn Host, list: Value<'_>, numbers: &[u32], scratch: &Scratch<'_>) -> u64 {
    let mut all = Xxh3::new();
    for &at in numbers {
        all.update(&lasting(host, list.at(at as usize, scratch), at).to_le_bytes());
    }
    all.digest()
}

/// A digest of which member of a list this is; of its place where it is nothing that the site has a name for.
fn lasting(host: &dyn Host, member: Value<'_>, at: u32) -> u64 {
    match member {
        Value::Record(record) => record.identity().map_or(u64::from(at), |identity| host.lasting_digest(identity)),
        _ => u64::from(at),
    }
}

/// The number of a query in its program.
fn number_of(program: &Program, plan: &QueryPlan) -> u32 {
    let at = program.queries.iter().position(|other| std::ptr::eq(other, plan));
    at.and_then(|at| u32::try_from(at).ok()).unwrap_or(u32::MAX)
}

/// What sort of order a value has: equal ones can be ordered; none for what has no order.
fn order_of(value: Value<'_>) -> Option<u8> {
    match value {
        Value::Int(_) | Value::Float(_) => Some(0),
        Value::Date(_) => Some(1),
        Value::Bool(_) => Some(2),
        _ => value.as_text().map(|_| 3),
    }
}

/// The order of two keys; `nothing` comes last, also descending.
fn key_order<'a>(context: &Context<'_, 'a>, a: Value<'a>, b: Value<'a>, descending: bool) -> Option<Ordering> {
    match (a, b) {
        (Value::Nothing, Value::Nothing) => Some(Ordering::Equal),
        (Value::Nothing, _) => Some(Ordering::Greater),
        (_, Value::Nothing) => Some(Ordering::Less),
        _ => ordered(context, a, b).map(|order| if descending { order.reverse() } else { order }),
    }
}

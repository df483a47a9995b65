//! What is known of values before anything is rendered: enough to find misspelt members.

use rustc_hash::FxHashMap;

use crate::text::source::Place;
use crate::value::datum::Datum;

/// A record type's number in [`Globals`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct RecordId(pub usize);

/// What is known of a value.
#[derive(Clone, Debug, PartialEq)]
pub enum Type {
    /// Nothing is known.
    Any,
    /// It is `nothing`, or not known yet, as a parameter that no call has given a value.
    Nothing,
    /// True or false.
    Bool,
    /// A number.
    Number,
    /// A text.
    Text,
    /// A date.
    Date,
    /// HTML.
    Html,
    /// A list of these, with members of its own if the record type says so.
    List(Box<Type>, Option<RecordId>),
    /// A record.
    Record(RecordId),
    /// A record of one of these sorts, of which there are two at least, in the order of their numbers.
    OneOf(Box<[RecordId]>),
    /// A group of a query, with its key and the members that its list has.
    Group(Box<Type>, Box<Type>),
    /// The counters of a loop's round.
    Round,
    /// A record that is written out, with these members.
    Made(Box<[(String, Type)]>),
}

/// The members of [`Type::Round`].
pub(crate) const ROUND: &[&str] = &["number", "first", "last", "count"];

/// Of how many parts a type may be made; of what is larger nothing is known. Each use of a value copies its type, so that
/// a value that holds another twice would double it with each name.
const LARGEST: usize = 200;

impl Type {
    /// A group of a query.
    pub(crate) fn group(key: Type, of: Type) -> Self {
        Type::Group(Box::new(key), Box::new(of)).bounded()
    }

    /// A record that is written out.
    pub(crate) fn made(members: Vec<(String, Type)>) -> Self {
        Type::Made(members.into()).bounded()
    }

    fn bounded(self) -> Self {
        let mut left = LARGEST;
        if self.fits(&mut left) { self } else { Type::Any }
    }

    fn fits(&self, left: &mut usize) -> bool {
        if *left == 0 {
            return false;
        }
        *left -= 1;
        match self {
            Type::List(of, _) => of.fits(left),
            Type::Group(key, of) => key.fits(left) && of.fits(left),
            Type::Made(members) => members.iter().all(|(_, of)| of.fits(left)),
            _ => true,
        }
    }

    /// A list without members of its own.
    pub fn list(of: Type) -> Self {
        Type::List(Box::new(of), None)
    }

    /// What is known of a value that is `default` where nothing else is given.
    pub(crate) fn of_default(default: &Datum) -> Type {
        match default {
            Datum::Nothing => Type::Nothing,
            Datum::Bool(_) => Type::Bool,
            Datum::Int(_) | Datum::Float(_) => Type::Number,
            Datum::Text(_) => Type::Text,
            Datum::Date(_) => Type::Date,
            Datum::List(_) => Type::list(Type::Any),
            _ => Type::Any,
        }
    }

    /// What is known of a value that is of one of two types.
    #[must_use]
    pub fn join(self, other: Type) -> Type {
        match (self, other) {
            (a, b) if a == b => a,
            (Type::Nothing, of) | (of, Type::Nothing) => of,
            (Type::List(a, own), Type::List(b, other)) => {
                Type::List(Box::new(a.join(*b)), own.filter(|_| own == other))
            }
            (Type::Group(key, of), Type::Group(other_key, other)) => Type::group(key.join(*other_key), of.join(*other)),
            (Type::Made(a), Type::Made(b)) => {
                let mut all = a.into_vec();
                for (name, of) in b.into_vec() {
                    match all.iter_mut().find(|(other, _)| *other == name) {
                        Some((_, known)) => *known = std::mem::replace(known, Type::Any).join(of),
                        None => all.push((name, of)),
                    }
                }
                Type::made(all)
            }
            (a, b) => match (a.records(), b.records()) {
                ([], _) | (_, []) => Type::Any,
                (a, b) => {
                    let mut all = [a, b].concat();
                    all.sort_unstable();
                    all.dedup();
                    Type::OneOf(all.into())
                }
            },
        }
    }

    /// The sorts of record that it may be of; none for what is not a record.
    pub(crate) fn records(&self) -> &[RecordId] {
        match self {
            Type::Record(id) => std::slice::from_ref(id),
            Type::OneOf(ids) => ids,
            _ => &[],
        }
    }

    /// What its members are, if it is a list.
    pub(crate) fn member(self) -> Type {
        match self {
            Type::List(of, _) => *of,
            Type::Nothing => Type::Nothing,
            _ => Type::Any,
        }
    }
}

/// What to say of a member that a record type does not list.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unlisted {
    /// It is an error.
    Error,
    /// It is a warning: no declaration and no content knows such a field.
    Warning,
    /// It is a warning: the site has no such thing, and the value is `nothing`.
    Lacking(&'static str),
    /// Nothing.
    Fine,
}

/// The members of one sort of record.
#[derive(Clone, Debug)]
pub(crate) struct RecordType {
    /// What it is called in messages: "the request".
    pub name: String,
    /// Its members.
    pub members: Vec<(String, Type)>,
    /// What to say of others.
    pub unlisted: Unlisted,
    /// Where the members are declared, if it is the site or a theme that does.
    pub declared: Option<Place>,
    /// What its records are called, where they equal and print as a text.
    pub called: Option<Called>,
}

/// What the records of a sort are called.
#[derive(Clone, Debug)]
pub(crate) struct Called {
    /// What one of them is, as in `term of family`.
    pub what: String,
    /// The text that each equals, and its label.
    pub names: Vec<(String, String)>,
}

impl RecordType {
    /// What it is called without its article.
    pub fn noun(&self) -> &str {
        let articles = ["a ", "an ", "the "];
        articles.into_iter().find_map(|article| self.name.strip_prefix(article)).unwrap_or(&self.name)
    }
}

/// The values that every file can name, in the order in which a render is given them.
#[derive(Clone, Debug, Default)]
pub struct Globals {
    names: Vec<(String, Type)>,
    index: FxHashMap<String, u16>,
    records: Vec<RecordType>,
    /// The values that prepare files may set.
    settable: Vec<u16>,
    /// The first value that prepare files make.
    prepared: Option<u16>,
    /// The values that are the same for every request.
    constant: Vec<u16>,
    /// The values that a site brings; a file may call its own so.
    of_site: Vec<u16>,
    /// What `image` gives.
    image: Option<RecordId>,
    /// What `page` gives, and `entry` for each collection.
    contents: FxHashMap<String, RecordId>,
}

impl Globals {
    /// Adds a value. Its number is that of the values before it.
    pub fn add(&mut self, name: &str, of: Type) {
        self.index.insert(name.to_owned(), u16::try_from(self.names.len()).unwrap_or(u16::MAX));
        self.names.push((name.to_owned(), of));
    }

    /// Adds a value that is the same for every request.
    pub fn add_constant(&mut self, name: &str, of: Type) {
        self.add(name, of);
        self.constant.extend(self.index.get(name));
    }

    /// Adds a value that the site brings, the same for every request. A file may take its name for another.
    pub fn add_of_site(&mut self, name: &str, of: Type) {
        self.add_constant(name, of);
        self.of_site.extend(self.index.get(name));
    }

    /// Adds a value that prepare files make, unless it is there or every site has one of this name; it is `nothing` where
    /// none of them ran.
    pub fn add_prepared(&mut self, name: &str) {
        let is_prepared = |number: &u16| self.prepared.is_some_and(|first| *number >= first);
        if self.is_reserved(name) || self.index.get(name).is_some_and(is_prepared) {
            return;
        }
        self.add(name, Type::Nothing);
        let number = self.index.get(name).copied();
        self.settable.extend(number);
        self.prepared = self.prepared.or(number);
    }

    /// Lets prepare files set the value `name`.
    pub fn let_set(&mut self, name: &str) {
        self.settable.extend(self.index.get(name));
    }

    /// The number of the value `name`, if prepare files may set it.
    pub(crate) fn settable(&self, name: &str) -> Option<u16> {
        self.index.get(name).copied().filter(|number| self.settable.contains(number))
    }

    /// Says what is known of a value that prepare files make; whether that is new.
    pub(crate) fn set_prepared(&mut self, number: u16, of: Type) -> bool {
        let prepared = self.prepared.is_some_and(|first| number >= first);
        match self.names.get_mut(usize::from(number)).filter(|(_, known)| prepared && *known != of) {
            Some((_, known)) => {
                *known = of;
                true
            }
            None => false,
        }
    }

    /// Whether the value `name` is there on every site and without any prepare file, so that no file can take its name
    /// for another.
    pub fn is_reserved(&self, name: &str) -> bool {
        let built_in = |number: &u16| self.prepared.is_none_or(|first| *number < first);
        self.index.get(name).is_some_and(|number| built_in(number) && !self.of_site.contains(number))
    }

    /// Whether `name` is that of a value which the site brings and prepare files make another of.
    pub fn hides(&self, name: &str) -> bool {
        self.of_site.iter().any(|&number| self.name(number) == name && self.index.get(name) != Some(&number))
    }

    /// Whether the value `number` is one that the site brings.
    pub fn is_of_site(&self, number: u16) -> bool {
        self.of_site.contains(&number)
    }

    /// What records of a sort are called, with an article.
    pub fn record_name(&self, id: RecordId) -> &str {
        self.record_type(id).map_or("a record", |record| &record.name)
    }

    /// The members of records of a sort, each with what is known of it.
    pub fn members(&self, id: RecordId) -> impl Iterator<Item = (&str, &Type)> {
        let members = self.record_type(id).map_or(&[][..], |record| &record.members);
        members.iter().map(|(name, of)| (name.as_str(), of))
    }

    /// Whether records of a sort have a member of this name.
    pub fn has_member(&self, id: RecordId, name: &str) -> bool {
        self.record_type(id).is_some_and(|record| record.members.iter().any(|(member, _)| member == name))
    }

    /// Whether the value `number` is the same for every request.
    pub(crate) fn is_constant(&self, number: u16) -> bool {
        self.constant.contains(&number)
    }

    /// The name of the value `number`.
    pub fn name(&self, number: u16) -> &str {
        self.names.get(usize::from(number)).map_or("?", |(name, _)| name)
    }

    /// How many values there are.
    pub fn count(&self) -> usize {
        self.names.len()
    }

    /// Adds a record type.
    pub fn record(&mut self, name: &str, unlisted: Unlisted, members: Vec<(String, Type)>) -> RecordId {
        self.records.push(RecordType { name: name.to_owned(), members, unlisted, declared: None, called: None });
        RecordId(self.records.len() - 1)
    }

    /// Changes a record type's members, for types that name each other.
    pub fn set_members(&mut self, id: RecordId, members: Vec<(String, Type)>) {
        if let Some(record) = self.records.get_mut(id.0) {
            record.members = members;
        }
    }

    /// Says which records of a type there are: `what` one of them is, and the text that each equals, with its label.
    pub fn set_called(&mut self, id: RecordId, what: String, names: Vec<(String, String)>) {
        if let Some(record) = self.records.get_mut(id.0) {
            record.called = Some(Called { what, names });
        }
    }

    /// Says where a record type's members are declared.
    pub fn declared_at(&mut self, id: RecordId, place: Place) {
        if let Some(record) = self.records.get_mut(id.0) {
            record.declared = Some(place);
        }
    }

    /// Says of which sort the records are that `image` gives.
    pub fn set_image(&mut self, id: RecordId) {
        self.image = Some(id);
    }

    /// Says of which sort the records are that `page` gives, or `entry` for a collection: `entry:varieties`.
    pub fn set_content(&mut self, sort: &str, id: RecordId) {
        self.contents.insert(sort.to_owned(), id);
    }

    /// What is known of what `page` or `entry` gives.
    pub fn content(&self, sort: &str) -> Type {
        self.contents.get(sort).map_or(Type::Any, |id| Type::Record(*id))
    }

    /// What is known of what `image` gives.
    pub fn image(&self) -> Type {
        self.image.map_or(Type::Any, Type::Record)
    }

    /// The number and type of the value `name`.
    pub fn find(&self, name: &str) -> Option<(u16, &Type)> {
        let &number = self.index.get(name)?;
        self.names.get(number as usize).map(|(_, of)| (number, of))
    }

    /// All names, in order.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        let in_force = |at: &usize, name: &str| self.index.get(name).is_some_and(|&number| usize::from(number) == *at);
        let names = self.names.iter().map(|(name, _)| name.as_str()).enumerate();
        names.filter(move |(at, name)| in_force(at, name)).map(|(_, name)| name)
    }

    /// A record type.
    pub(crate) fn record_type(&self, id: RecordId) -> Option<&RecordType> {
        self.records.get(id.0)
    }
}

//! What is known of values before anything is rendered: enough to find misspelt members.

use rustc_hash::FxHashMap;

/// A record type's number in [`Globals`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RecordId(pub usize);

/// What is known of a value.
#[derive(Clone, Debug, PartialEq)]
pub enum Type {
    /// Nothing is known.
    Any,
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
}

impl Type {
    /// A list without members of its own.
    pub fn list(of: Type) -> Self {
        Type::List(Box::new(of), None)
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

    /// Adds a value that prepare files make; it is `nothing` where none of them ran.
    pub fn add_prepared(&mut self, name: &str) {
        self.add(name, Type::Any);
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

    /// Whether the value `name` is there without any prepare file.
    pub fn is_built_in(&self, name: &str) -> bool {
        self.index.get(name).is_some_and(|&number| self.prepared.is_none_or(|first| number < first))
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
        self.records.push(RecordType { name: name.to_owned(), members, unlisted });
        RecordId(self.records.len() - 1)
    }

    /// Changes a record type's members, for types that name each other.
    pub fn set_members(&mut self, id: RecordId, members: Vec<(String, Type)>) {
        if let Some(record) = self.records.get_mut(id.0) {
            record.members = members;
        }
    }

    /// The number and type of the value `name`.
    pub fn find(&self, name: &str) -> Option<(u16, &Type)> {
        let &number = self.index.get(name)?;
        self.names.get(number as usize).map(|(_, of)| (number, of))
    }

    /// All names, in order.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.names.iter().map(|(name, _)| name.as_str())
    }

    /// A record type.
    pub(crate) fn record_type(&self, id: RecordId) -> Option<&RecordType> {
        self.records.get(id.0)
    }
}

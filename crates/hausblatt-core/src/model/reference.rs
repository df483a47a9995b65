//! A page or an entry that a field names: a value that is the record of that content, wherever the field is.

use hausblatt_lang::value::datum::{Datum, MadeRecord};
use hausblatt_lang::value::host::Host;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};
use std::sync::Arc;

use crate::model::content::{Content, ContentId};
use crate::text::names;

/// What a field names. Its members are evaluated by the site for which it is rendered.
#[derive(Debug)]
struct ContentReference {
    id: ContentId,
    keys: Box<[Symbol]>,
}

/// The value of a field that names this content.
pub(crate) fn value(id: ContentId, content: &Content) -> Datum {
    let built_in = names::BUILT_IN_SYMBOLS.iter().filter(|symbol| content.shape.slot(**symbol).is_none());
    let keys = built_in.chain(content.shape.names()).copied().collect();
    Datum::MadeRecord(Arc::new(ContentReference { id, keys }))
}

impl MadeRecord for ContentReference {
    fn lasting_digest(&self, host: &dyn Host) -> u64 {
        host.lasting_digest((0, self.id.0))
    }
}

impl Record for ContentReference {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        match scratch.host().map(|host| host.content_of(self.id.0, scratch)) {
            Some(Value::Record(record)) => record.get(symbol, scratch),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        self.keys.to_vec()
    }

    fn identity(&self) -> Option<(u32, u32)> {
        Some((0, self.id.0))
    }
}

//! JSON (RFC 8259), in which a key that is there twice is an error: which of the two is meant, nobody can know.

use std::fmt;

use serde::de::{self, Deserialize, Deserializer, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Number, Value};

/// Reads a text as JSON.
///
/// # Errors
/// What is wrong with it, and at which line and column, counted from 1.
pub fn read(text: &str) -> Result<Value, serde_json::Error> {
    serde_json::from_str::<Once>(text).map(|once| once.0)
}

/// A value whose records have each key once.
struct Once(Value);

impl<'de> Deserialize<'de> for Once {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_any(Values).map(Once)
    }
}

struct Values;

impl<'de> Visitor<'de> for Values {
    type Value = Value;

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str("a JSON value")
    }

    fn visit_unit<E>(self) -> Result<Value, E> {
        Ok(Value::Null)
    }

    fn visit_bool<E>(self, truth: bool) -> Result<Value, E> {
        Ok(Value::Bool(truth))
    }

    fn visit_i64<E>(self, number: i64) -> Result<Value, E> {
        Ok(number.into())
    }

    fn visit_u64<E>(self, number: u64) -> Result<Value, E> {
        Ok(number.into())
    }

    fn visit_f64<E>(self, number: f64) -> Result<Value, E> {
        Ok(Number::from_f64(number).map_or(Value::Null, Value::Number))
    }

    fn visit_str<E>(self, text: &str) -> Result<Value, E> {
        Ok(Value::String(text.to_owned()))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut members: A) -> Result<Value, A::Error> {
        let mut list = Vec::new();
        while let Some(Once(member)) = members.next_element()? {
            list.push(member);
        }
        Ok(Value::Array(list))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut entries: A) -> Result<Value, A::Error> {
        let mut record = Map::new();
        while let Some(key) = entries.next_key::<String>()? {
            if record.contains_key(&key) {
                return Err(de::Error::custom(format!("the key \"{key}\" is there twice")));
            }
            let Once(value) = entries.next_value()?;
            record.insert(key, value);
        }
        Ok(Value::Object(record))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_what_the_library_reads_but_for_keys_that_are_there_twice() {
        for text in
            ["null", "[1, -2, 3.5, 18446744073709551615]", "{\"a\": {\"b\": [true, \"c\"]}, \"b\": {}}", "\"é\""]
        {
            assert_eq!(read(text).unwrap(), serde_json::from_str::<Value>(text).unwrap(), "{text}");
        }
        for text in ["", "[1,]", "{\"a\": 1, \"b\": {\"c\": 1, \"c\": 2}}", "{\"a\": 1,\n \"a\": 2}"] {
            assert!(read(text).is_err(), "{text}");
        }
        let error = read("{\"a\": 1,\n \"a\": 2}").unwrap_err();
        assert_eq!((error.line(), error.to_string().starts_with("the key \"a\" is there twice")), (2, true), "{error}");
    }
}

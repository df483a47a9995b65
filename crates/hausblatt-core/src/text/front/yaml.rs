//! The full reader: YAML 1.2 through a parser's events, without anchors, tags and duplicate keys.

use hausblatt_lang::text::source::Span;
use rustc_hash::FxHashSet;
use saphyr_parser::{Event, Marker, Parser, ScalarStyle};

use crate::text::data::{Data, DataValue, Entry, scalar};
use crate::text::front::Problem;

/// How deep values may nest.
const DEPTH: usize = 32;

/// The entries of the mapping that is at `span` of `text`.
///
/// # Errors
/// What is wrong, and where.
pub fn read(text: &str, span: Span) -> Result<Vec<Entry>, Problem> {
    let yaml = span.of(text);
    let mut reader = YamlReader {
        places: Places { yaml, start: span.range().start, at: (0, 0) },
        parser: Parser::new_from_str(yaml),
    };
    reader.document()
}

/// The value that a whole YAML file holds; nothing for an empty one.
///
/// # Errors
/// What is wrong, and where.
pub fn whole(text: &str) -> Result<Data, Problem> {
    let mut reader =
        YamlReader { places: Places { yaml: text, start: 0, at: (0, 0) }, parser: Parser::new_from_str(text) };
    let nothing = Data { span: Span::default(), value: DataValue::Nothing };
    loop {
        match reader.parser.peek() {
            Some(Ok((Event::StreamStart | Event::DocumentStart(_), _))) => drop(reader.next()?),
            Some(Ok((Event::StreamEnd | Event::DocumentEnd, _))) | None => return Ok(nothing),
            Some(_) => break,
        }
    }
    let data = reader.value(0)?;
    reader.end(Vec::new())?;
    Ok(data)
}

fn too_deep(span: Span) -> Problem {
    Problem::new(span, format!("this nests more than {DEPTH} deep"), Some("write it flatter"))
}

struct YamlReader<'y> {
    places: Places<'y>,
    parser: Parser<'y, saphyr_parser::StrInput<'y>>,
}

/// Turns the parser's places, which count characters, into bytes of the file.
struct Places<'y> {
    yaml: &'y str,
    start: usize,
    /// The last place that was asked about: characters, bytes.
    at: (usize, usize),
}

impl Places<'_> {
    fn byte(&mut self, marker: &Marker) -> usize {
        let wanted = marker.index();
        let (from, mut byte) = if wanted >= self.at.0 { self.at } else { (0, 0) };
        byte += self.yaml[byte..].chars().take(wanted - from).map(char::len_utf8).sum::<usize>();
        self.at = (wanted, byte);
        self.start + byte
    }
}

impl Places<'_> {
    /// The span without white space at its end, which the parser counts to some scalars.
    fn trimmed(&self, start: usize, end: usize) -> Span {
        let text = self.yaml.get(start - self.start..end.max(start) - self.start).unwrap_or("");
        Span::new(start, start + text.trim_end().len())
    }
}

type Spanned<'y> = (Event<'y>, Span);

impl<'y> YamlReader<'y> {
    fn document(&mut self) -> Result<Vec<Entry>, Problem> {
        loop {
            let (event, span) = self.next()?;
            match event {
                Event::StreamStart | Event::DocumentStart(_) => {}
                Event::StreamEnd | Event::DocumentEnd => return Ok(Vec::new()),
                Event::Scalar(text, ScalarStyle::Plain, 0, None) if scalar(&text) == DataValue::Nothing => {
                    return self.end(Vec::new());
                }
                Event::MappingStart(0, None) => {
                    let entries = self.map(1)?;
                    return self.end(entries);
                }
                Event::SequenceStart(..) => {
                    return Err(Problem::new(
                        span,
                        "front matter is keys and values, not a list",
                        Some("write each line as key: value"),
                    ));
                }
                Event::Scalar(..) => {
                    return Err(Problem::new(
                        span,
                        "front matter is keys and values",
                        Some("write each line as key: value"),
                    ));
                }
                _ => return Err(no_anchors(span)),
            }
        }
    }

    /// After the mapping nothing may follow.
    fn end(&mut self, entries: Vec<Entry>) -> Result<Vec<Entry>, Problem> {
        loop {
            match self.next()? {
                (Event::DocumentEnd, _) => {}
                (Event::StreamEnd, _) => return Ok(entries),
                (_, span) => return Err(Problem::new(span, "only one document can be here", None)),
            }
        }
    }

    fn next(&mut self) -> Result<Spanned<'y>, Problem> {
        match self.parser.next_event() {
            Some(Ok((event, span))) => {
                let start = self.places.byte(&span.start);
                let end = self.places.byte(&span.end);
                Ok((event, self.places.trimmed(start, end)))
            }
            Some(Err(error)) => {
                let at = self.places.byte(error.marker());
                // The parser has a bound of its own, and may meet it before this reader meets its own.
                if error.info().contains("recursion") {
                    return Err(too_deep(Span::new(at, at + 1)));
                }
                Err(Problem::new(
                    Span::new(at, at + 1),
                    plain_words(error.info()),
                    Some("put a text with special characters in quotes, and indent with spaces"),
                ))
            }
            None => Ok((Event::StreamEnd, Span::default())),
        }
    }

    fn map(&mut self, depth: usize) -> Result<Vec<Entry>, Problem> {
        let mut entries: Vec<Entry> = Vec::new();
        let mut seen: FxHashSet<Box<str>> = FxHashSet::default();
        loop {
            let (event, span) = self.next()?;
            let key: Box<str> = match event {
                Event::MappingEnd => return Ok(entries),
                Event::Scalar(text, _, 0, None) => text.as_ref().into(),
                Event::Scalar(..) | Event::Alias(_) => return Err(no_anchors(span)),
                _ => return Err(Problem::new(span, "a key must be a plain text", None)),
            };
            if !seen.insert(key.clone()) {
                return Err(Problem::new(span, format!("\"{key}\" is here twice"), Some("keep one of the two")));
            }
            let mut data = self.value(depth)?;
            if data.span.range().is_empty() {
                data.span = Span::new(span.range().end, span.range().end);
            }
            entries.push(Entry { key, span, data });
        }
    }

    fn value(&mut self, depth: usize) -> Result<Data, Problem> {
        let (event, span) = self.next()?;
        if depth > DEPTH {
            return Err(too_deep(span));
        }
        let value = match event {
            Event::Scalar(text, ScalarStyle::Plain, 0, None) => scalar(&text),
            Event::Scalar(text, _, 0, None) => DataValue::Text(text.as_ref().into()),
            Event::SequenceStart(0, None) => return self.list(depth + 1, span),
            Event::MappingStart(0, None) => DataValue::Map(self.map(depth + 1)?),
            _ => return Err(no_anchors(span)),
        };
        Ok(Data { span, value })
    }

    fn list(&mut self, depth: usize, start: Span) -> Result<Data, Problem> {
        let mut members = Vec::new();
        loop {
            if let Some(Ok((Event::SequenceEnd, _))) = self.parser.peek() {
                let (_, end) = self.next()?;
                return Ok(Data { span: start.to(end), value: DataValue::List(members) });
            }
            members.push(self.value(depth)?);
        }
    }
}

fn no_anchors(span: Span) -> Problem {
    let help = "write the value out; a text that begins with & * or ! is put in quotes";
    Problem::new(span, "anchors and aliases can't be used here", Some(help))
}

fn plain_words(info: &str) -> String {
    let mut words = info.trim_end_matches('.').to_owned();
    if let Some(first) = words.get_mut(..1) {
        first.make_ascii_lowercase();
    }
    words
}

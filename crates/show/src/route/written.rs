//! Routes in files and messages: the fields of all routes, and between them those that only some transports have.

use serde::de::value::MapAccessDeserializer;
use serde::de::{DeserializeSeed, Deserializer, IntoDeserializer, MapAccess, Visitor};
use serde::ser::{SerializeMap, Serializer};
use serde::{Deserialize, Serialize};
use splimo_base::white::WhitePoint;
use splimo_transport::{Field, FieldKind, FieldValue, field_named};

use super::{Pacing, Route, RouteFields};

impl Serialize for Route {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let fields = RouteFields::from(self.clone());
        let mut out = Writer { map: serializer.serialize_map(None)?, route: self };
        out.put("name", &fields.name)?;
        out.put("universes", &fields.universes)?;
        out.put("protocol", &fields.protocol)?;
        out.put("first", &fields.first)?;
        out.put("to", &fields.to)?;
        out.unless("interface", &fields.interface, fields.interface.is_none())?;
        out.unless("rate", &fields.rate, fields.rate.is_none())?;
        out.unless("pacing", &fields.pacing, fields.pacing == Pacing::default())?;
        out.unless("sync", &fields.sync, !fields.sync)?;
        out.put("unchanged", &fields.unchanged)?;
        out.unless("limit", &fields.limit, fields.limit == 100.0)?;
        out.unless("white", &fields.white, fields.white == WhitePoint::default())?;
        out.unless("enabled", &fields.enabled, fields.enabled)?;
        out.map.end()
    }
}

/// Writes the fields of a route; behind each those of its transport that stand there.
struct Writer<'r, M> {
    map: M,
    route: &'r Route,
}

impl<M: SerializeMap> Writer<'_, M> {
    fn put<T: Serialize>(&mut self, name: &'static str, value: &T) -> Result<(), M::Error> {
        self.unless(name, value, false)
    }

    fn unless<T: Serialize>(&mut self, name: &'static str, value: &T, left_out: bool) -> Result<(), M::Error> {
        if !left_out {
            self.map.serialize_entry(name, value)?;
        }
        let transport = &self.route.transport;
        for field in transport.fields().iter().filter(|field| field.behind == name) {
            let value = transport.value(field.name);
            let usual = value == transport.kind().usual().value(field.name);
            match value {
                FieldValue::Whole(number) => self.unless(field.name, &number, usual)?,
                FieldValue::Flag(on) => self.unless(field.name, &on, usual)?,
            }
        }
        Ok(())
    }
}

impl<'de> Deserialize<'de> for Route {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_map(Reader)
    }
}

struct Reader;

impl<'de> Visitor<'de> for Reader {
    type Value = Route;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("a route")
    }

    fn visit_map<M: MapAccess<'de>>(self, map: M) -> Result<Route, M::Error> {
        let mut own = Vec::new();
        let fields = RouteFields::deserialize(MapAccessDeserializer::new(Split { map, own: &mut own }))?;
        Ok(RouteFields { own, ..fields }.into())
    }
}

/// Hands on all fields of a route but those of transports, which it keeps.
struct Split<'a, M> {
    map: M,
    own: &'a mut Vec<(&'static str, FieldValue)>,
}

impl<'de, M: MapAccess<'de>> MapAccess<'de> for Split<'_, M> {
    type Error = M::Error;

    fn next_key_seed<K: DeserializeSeed<'de>>(&mut self, seed: K) -> Result<Option<K::Value>, M::Error> {
        while let Some(key) = self.map.next_key::<String>()? {
            let Some(field) = field_named(&key) else {
                return seed.deserialize(key.into_deserializer()).map(Some);
            };
            let value = self.map.next_value_seed(Own(field))?;
            self.own.push((field.name, value));
        }
        Ok(None)
    }

    fn next_value_seed<V: DeserializeSeed<'de>>(&mut self, seed: V) -> Result<V::Value, M::Error> {
        self.map.next_value_seed(seed)
    }
}

/// Reads the value of a field of a transport.
struct Own(&'static Field);

impl<'de> DeserializeSeed<'de> for Own {
    type Value = FieldValue;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<FieldValue, D::Error> {
        match self.0.kind {
            FieldKind::Whole { to, .. } if to <= u32::from(u8::MAX) => {
                u8::deserialize(deserializer).map(|number| FieldValue::Whole(number.into()))
            }
            FieldKind::Whole { .. } => u32::deserialize(deserializer).map(FieldValue::Whole),
            FieldKind::Flag => bool::deserialize(deserializer).map(FieldValue::Flag),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::UniverseRange;
    use splimo_transport::TransportKind;

    fn route(kind: TransportKind) -> Route {
        let transport = kind.usual();
        let (first, to) = (transport.usual_number(3), transport.usual_destination().into());
        Route::new("A", UniverseRange { first: 3, last: 4 }, kind, first, to)
    }

    /// A value of a field that is not the usual one.
    fn other(field: &Field, usual: FieldValue) -> FieldValue {
        match field.kind {
            FieldKind::Whole { from, .. } => FieldValue::Whole(from),
            FieldKind::Flag => FieldValue::Flag(!usual.flag()),
        }
    }

    #[test]
    fn every_transport_and_each_of_its_fields_is_read_as_it_was_written() {
        for kind in TransportKind::ALL {
            let mut all = vec![route(*kind)];
            for field in kind.usual().fields() {
                let mut changed = route(*kind);
                changed.transport.set(field.name, other(field, kind.usual().value(field.name)));
                let text = toml::to_string(&changed).expect("it is written");
                assert!(text.contains(&format!("\n{} = ", field.name)), "{text}");
                all.push(changed);
            }
            for route in all {
                let text = toml::to_string(&route).expect("it is written");
                assert_eq!(toml::from_str::<Route>(&text).expect(&text), route);
                let message = serde_json::to_string(&route).expect("it is written");
                assert_eq!(serde_json::from_str::<Route>(&message).expect(&message), route);
            }
        }
    }

    #[test]
    fn fields_stand_where_they_always_stood() {
        let text = "name = \"A\"\nuniverses = \"3-4\"\nprotocol = \"sacn\"\nfirst = 3\nto = \"multicast\"\ninterface = \"eth0\"\n\
            priority = 90\npreview = true\nrate = 30.0\npacing = \"spread\"\nsync = true\nunchanged = \"repeat\"\nlimit = 50.0\n\
            white = \"4500 K\"\nenabled = false\n";
        let read: Route = toml::from_str(text).expect("a route");
        assert_eq!(toml::to_string(&read).expect("it is written"), text);
        let port = "name = \"A\"\nuniverses = \"3\"\nprotocol = \"serial\"\nfirst = 0\nto = \"/dev/ttyUSB0\"\nunchanged = \"keep-alive\"\nbaud = 115200\n";
        let read: Route = toml::from_str(port).expect("a route");
        assert_eq!(toml::to_string(&read).expect("it is written"), port);
    }

    #[test]
    fn fields_of_another_transport_are_left_out_and_strange_ones_are_known_as_such() {
        let text = "name = \"A\"\nuniverses = \"3\"\nprotocol = \"art-net\"\nto = \"nodes\"\npriority = 90\nbaud = 9600\nbrightness = 3\n";
        let mut strange = Vec::new();
        let read =
            serde_ignored::deserialize::<_, _, Route>(toml::Deserializer::parse(text).expect("it is TOML"), |path| {
                strange.push(path.to_string())
            });
        let plain = toml::from_str("name = \"A\"\nuniverses = \"3\"\nprotocol = \"art-net\"\nto = \"nodes\"\n")
            .expect("a route");
        assert_eq!((read, strange), (Ok(plain), vec!["brightness".to_owned()]));
        for (bad, word) in [("priority = 300", "300"), ("preview = 7", "boolean"), ("baud = \"fast\"", "fast")] {
            let error = toml::from_str::<Route>(
                &format!("{text}\n{bad}\n").replace("priority = 90\n", "").replace("baud = 9600\n", ""),
            );
            assert!(error.as_ref().is_err_and(|error| error.to_string().contains(word)), "{bad}: {error:?}");
        }
    }
}

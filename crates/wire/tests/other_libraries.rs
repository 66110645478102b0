//! OSC and MIDI held against libraries that others wrote: what we emit they read, and what they write we read.

use midly::live::{LiveEvent, SystemCommon, SystemRealtime};
use midly::num::{u4, u7, u14};
use midly::{MidiMessage, PitchBend};
use proptest::prelude::*;
use splimo_wire::midi::{self, Reader, Timing, Voice};
use splimo_wire::osc;

fn voices() -> impl Strategy<Value = Voice> {
    let seven = 0u8..128;
    prop_oneof![
        (seven.clone(), 1u8..128).prop_map(|(note, velocity)| Voice::NoteOn(note, velocity)),
        (seven.clone(), seven.clone()).prop_map(|(note, velocity)| Voice::NoteOff(note, velocity)),
        (seven.clone(), seven.clone()).prop_map(|(note, pressure)| Voice::KeyPressure(note, pressure)),
        (seven.clone(), seven.clone()).prop_map(|(number, value)| Voice::Control(number, value)),
        seven.clone().prop_map(Voice::Program),
        seven.prop_map(Voice::Pressure),
        (0u16..16_384).prop_map(Voice::Bend),
    ]
}

/// A message of a channel as the other library has it.
fn theirs(voice: Voice) -> MidiMessage {
    let seven = u7::new;
    match voice {
        Voice::NoteOn(key, vel) => MidiMessage::NoteOn { key: seven(key), vel: seven(vel) },
        Voice::NoteOff(key, vel) => MidiMessage::NoteOff { key: seven(key), vel: seven(vel) },
        Voice::KeyPressure(key, vel) => MidiMessage::Aftertouch { key: seven(key), vel: seven(vel) },
        Voice::Control(controller, value) => {
            MidiMessage::Controller { controller: seven(controller), value: seven(value) }
        }
        Voice::Program(program) => MidiMessage::ProgramChange { program: seven(program) },
        Voice::Pressure(vel) => MidiMessage::ChannelAftertouch { vel: seven(vel) },
        Voice::Bend(bend) => MidiMessage::PitchBend { bend: PitchBend(u14::new(bend)) },
    }
}

fn read(bytes: &[u8]) -> Vec<midi::Message> {
    let mut reader = Reader::default();
    bytes.iter().filter_map(|byte| reader.byte(*byte)).collect()
}

proptest! {
    #[test]
    fn midi_that_we_emit_is_read_by_another_library(channel in 1u8..=16, voice in voices()) {
        let (bytes, length) = midi::emit(channel, voice);
        let event = LiveEvent::parse(&bytes[..length]).expect("a message");
        prop_assert_eq!(event, LiveEvent::Midi { channel: u4::new(channel - 1), message: theirs(voice) });
    }

    #[test]
    fn midi_that_another_library_writes_is_read_with_running_status(
        all in prop::collection::vec((1u8..=3, voices()), 1..40),
    ) {
        let (mut bytes, mut running) = (Vec::new(), None);
        for (channel, voice) in &all {
            let event = LiveEvent::Midi { channel: u4::new(channel - 1), message: theirs(*voice) };
            event.write_std_with_running_status(&mut running, &mut bytes).expect("it is written");
        }
        let wanted: Vec<midi::Message> =
            all.iter().map(|(channel, voice)| midi::Message::Channel(*channel, *voice)).collect();
        prop_assert_eq!(read(&bytes), wanted);
    }

    #[test]
    fn osc_that_we_emit_is_read_by_another_library(
        name in "[a-z]{1,12}", number in -1e6f32..1e6, text in "[ -~]{0,20}", flag: bool,
    ) {
        let address = format!("/splimo/{name}");
        let arguments = [
            osc::Argument::Number(f64::from(number)),
            osc::Argument::Text(text.clone()),
            osc::Argument::Flag(flag),
        ];
        let bytes = osc::emit(&address, &arguments).expect("a message");
        let message = tinyosc::Message::deserialize(&bytes).expect("they read it");
        prop_assert_eq!(message.path, address.as_str());
        match message.arguments.as_slice() {
            [tinyosc::Argument::f(f), tinyosc::Argument::s(s), last] => {
                prop_assert_eq!((*f, *s), (number, text.as_str()));
                prop_assert_eq!(matches!(last, tinyosc::Argument::T), flag);
            }
            other => prop_assert!(false, "{:?}", other),
        }
    }

    #[test]
    fn osc_that_another_library_writes_is_read(
        name in "[a-z]{1,12}", number in -1e6f32..1e6, whole: i32, text in "[ -~]{0,20}", flag: bool,
    ) {
        let path = format!("/splimo/{name}");
        let arguments = vec![number.into(), whole.into(), text.as_str().into(), flag.into()];
        let bytes = tinyosc::Message { path: &path, arguments }.serialize().expect("it is written");
        let all = osc::messages(&bytes).expect("a packet");
        let wanted = vec![
            osc::Argument::Number(f64::from(number)),
            osc::Argument::Number(f64::from(whole)),
            osc::Argument::Text(text),
            osc::Argument::Flag(flag),
        ];
        prop_assert_eq!(all, vec![osc::Message { address: path, arguments: wanted, at: None }]);
    }
}

#[test]
fn timing_that_another_library_writes_is_read() {
    let write = |event: LiveEvent<'_>| {
        let mut bytes = Vec::new();
        event.write_std(&mut bytes).expect("it is written");
        read(&bytes)
    };
    for (event, wanted) in [
        (SystemRealtime::TimingClock, Timing::Clock),
        (SystemRealtime::Start, Timing::Start),
        (SystemRealtime::Continue, Timing::Continue),
        (SystemRealtime::Stop, Timing::Stop),
    ] {
        assert_eq!(write(LiveEvent::Realtime(event)), [midi::Message::Timing(wanted)]);
    }
    let position = LiveEvent::Common(SystemCommon::SongPosition(u14::new(1234)));
    assert_eq!(write(position), [midi::Message::Timing(Timing::Position(1234))]);
}

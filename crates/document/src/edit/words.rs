//! Edits in a few words, for the night log.

use super::Edit;

impl Edit {
    /// The edit in a few words, such as "changes the look Tide".
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::Add(batch) => format!("adds {}", many(batch.count as usize, "fixture")),
            Self::Remove(fixtures) => format!("takes {} out", many(fixtures.len(), "fixture")),
            Self::Duplicate(fixtures) => format!("copies {}", many(fixtures.len(), "fixture")),
            Self::Put(changed) => changes(changed.iter().map(|(_, one)| one.name.as_str()), "fixture"),
            Self::Patch(fixtures, _) => format!("patches {}", many(fixtures.len(), "fixture")),
            Self::Unpatch(fixtures) => format!("unpatches {}", many(fixtures.len(), "fixture")),
            Self::Arrange(fixtures, _) => format!("arranges {}", many(fixtures.len(), "fixture")),
            Self::Reorder(fixtures, _) => format!("reorders {}", many(fixtures.len(), "fixture")),
            Self::Canvas(canvas) | Self::FitCanvas(canvas) => {
                format!("sets the canvas to {} x {}", canvas.width, canvas.height)
            }
            Self::AddGroup(group) => format!("adds the group {}", group.name),
            Self::PutGroup(_, group) => format!("changes the group {}", group.name),
            Self::RemoveGroup(_) => "takes a group out".to_owned(),
            Self::MergeGroups(groups) => format!("makes one of {}", many(groups.len(), "group")),
            Self::AddProfile(profile) => format!("adds the profile {}", profile.name),
            Self::PutProfile(_, profile) => format!("changes the profile {}", profile.name),
            Self::RemoveProfile(_) => "takes a profile out".to_owned(),
            Self::AddRoutes(routes) => format!("adds {}", many(routes.len(), "route")),
            Self::PutRoute(_, route) => format!("changes the route {}", route.name),
            Self::RemoveRoute(_) => "takes a route out".to_owned(),
            Self::AddSupply(supply) => format!("adds the supply {}", supply.name),
            Self::PutSupply(_, supply) => format!("changes the supply {}", supply.name),
            Self::RemoveSupply(_) => "takes a supply out".to_owned(),
            Self::AddLooks(_, looks) => format!("adds {}", many(looks.len(), "look")),
            Self::PutLooks(changed) => changes(changed.iter().map(|(_, one)| one.name.as_str()), "look"),
            Self::RemoveLooks(looks) => format!("takes {} out", many(looks.len(), "look")),
            Self::MoveLook(..) => "moves a look in the list".to_owned(),
            Self::AddRegion(region) => format!("adds the region {}", region.name),
            Self::PutRegion(_, region) => format!("changes the region {}", region.name),
            Self::RemoveRegion(_) => "takes a region out".to_owned(),
            Self::AddSwatch(swatch) => format!("adds {} to the palette", swatch.name),
            Self::PutSwatch(_, swatch) => format!("changes {} in the palette", swatch.name),
            Self::RemoveSwatch(_) => "takes an entry out of the palette".to_owned(),
            Self::AddAim(aim) => format!("adds the aim {}", aim.name),
            Self::PutAim(_, aim) => format!("changes the aim {}", aim.name),
            Self::RemoveAim(_) => "takes an aim out".to_owned(),
            Self::AddTier(_, tier) => format!("adds the tier {}", tier.name),
            Self::PutTier(_, tier) => format!("changes the tier {}", tier.name),
            Self::RemoveTier(_) => "takes a tier out".to_owned(),
            Self::MoveTier(..) => "moves a tier in the stack".to_owned(),
            Self::AddBanks(_, banks) => format!("adds {}", many(banks.len(), "bank")),
            Self::PutBanks(changed) => changes(changed.iter().map(|(_, one)| one.name.as_str()), "bank"),
            Self::RemoveBank(_) => "takes a bank out".to_owned(),
            Self::MoveBank(..) => "moves a bank in the list".to_owned(),
            Self::AddCueLists(_, lists) => format!("adds {}", many(lists.len(), "cue list")),
            Self::PutCueLists(changed) => changes(changed.iter().map(|(_, one)| one.name.as_str()), "cue list"),
            Self::RemoveCueList(_) => "takes a cue list out".to_owned(),
            Self::OwnLooks(_, _, looks) => format!("gives a cue {} of its own", many(looks.len(), "look")),
            Self::MoveCueList(..) => "moves a cue list".to_owned(),
            Self::AddTimeline(timeline) => format!("adds the timeline {}", timeline.name),
            Self::PutTimeline(_, timeline) => format!("changes the timeline {}", timeline.name),
            Self::RemoveTimeline(_) => "takes a timeline out".to_owned(),
            Self::PutSchedule(_) => "changes the schedule".to_owned(),
            Self::PutRotation(_) => "changes the rotation".to_owned(),
            Self::AddInput(input) => format!("adds the input {}", input.name),
            Self::PutInput(_, input) => format!("changes the input {}", input.name),
            Self::RemoveInput(_) => "takes an input out".to_owned(),
            Self::AddBindings(bindings) => match bindings.as_slice() {
                [one] => format!("binds {} {} to {}", one.source, one.event, one.asks_for()),
                many_of_them => format!("adds {}", many(many_of_them.len(), "binding")),
            },
            Self::PutBindings(changed) => format!("changes {}", many(changed.len(), "binding")),
            Self::RemoveBindings(removed) => format!("takes {} out", many(removed.len(), "binding")),
            Self::AddProgram(program) => format!("adds the program {}", program.name),
            Self::PutProgram(_, program) => format!("changes the program {}", program.name),
            Self::RemoveProgram(_) => "takes a program out".to_owned(),
            Self::IgnoreNode(address, true) => format!("leaves node {address} alone"),
            Self::IgnoreNode(address, false) => format!("counts node {address} again"),
            Self::NameControl(number, name) if name.is_empty() => format!("takes the name of control {number}"),
            Self::NameControl(number, name) => format!("calls control {number} {name}"),
            Self::PutValuesOut(values) => format!("has {} leave", many(values.len(), "value")),
            Self::Set(name, value) => format!("sets {name} to {value}"),
            Self::Import(fixtures, _) => format!("takes {} over", many(fixtures.len(), "fixture")),
        }
    }
}

fn many(count: usize, kind: &str) -> String {
    if count == 1 { format!("a {kind}") } else { format!("{count} {kind}s") }
}

fn changes<'n>(names: impl ExactSizeIterator<Item = &'n str>, kind: &str) -> String {
    let count = names.len();
    match (count, names.take(1).next()) {
        (1, Some(name)) => format!("changes the {kind} {name}"),
        (_, _) => format!("changes {}", many(count, kind)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Look;
    use splimo_show::setting::SettingValue;

    #[test]
    fn an_edit_is_told_in_words() {
        let looks = |names: &[&str]| names.iter().map(|name| (0, Look::new(name, Vec::new()))).collect();
        for (edit, words) in [
            (Edit::PutLooks(looks(&["Tide"])), "changes the look Tide"),
            (Edit::PutLooks(looks(&["Tide", "Gale"])), "changes 2 looks"),
            (Edit::RemoveLooks(vec![3]), "takes a look out"),
            (Edit::Set("fade".into(), SettingValue::Number(4.0)), "sets fade to 4"),
        ] {
            assert_eq!(edit.words(), words);
        }
    }
}

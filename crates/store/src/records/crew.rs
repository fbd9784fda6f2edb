//! People and what hangs on them, teams, fields, texts.

use super::{day, pairs, position, values};
use crate::{
    Error,
    entity::{
        absence, field, holiday,
        json::{Patterns, Rates, Words},
        person, team, team_member, text_note,
    },
};
use sea_orm::IntoActiveModel;
use snug_core::{
    AbsenceId, FieldId, HolidayId, PersonId, TeamId, TextId,
    fields::Field,
    people::{Absence, Holiday, Person},
    text::Text,
    work::Team,
};

pub(crate) fn person_row(record: &Person) -> person::ActiveModel {
    person::Model {
        id: record.id.0,
        email: record.email.clone(),
        name: record.name.clone(),
        role: record.role.clone(),
        kind: record.kind.to_string(),
        calendar: record.calendar.clone(),
        patterns: Patterns(record.patterns.clone()),
        day_limit: record.day_limit,
        week_limit: record.week_limit,
        max_projects: record.max_projects,
        max_tasks: record.max_tasks,
        max_points: record.max_points,
        skills: Words(record.skills.clone()),
        rates: Rates(record.rates.clone()),
        fields: pairs(&record.fields),
    }
    .into_active_model()
}

pub(crate) fn person(row: person::Model) -> Result<Person, Error> {
    Ok(Person {
        id: PersonId(row.id),
        email: row.email,
        name: row.name,
        role: row.role,
        kind: row.kind.parse()?,
        calendar: row.calendar,
        patterns: row.patterns.0,
        day_limit: row.day_limit,
        week_limit: row.week_limit,
        max_projects: row.max_projects,
        max_tasks: row.max_tasks,
        max_points: row.max_points.map(|points| points.normalize()),
        skills: row.skills.0,
        rates: row.rates.0,
        fields: values(row.fields),
    })
}

pub(crate) fn holiday_row(record: &Holiday) -> holiday::ActiveModel {
    holiday::Model {
        id: record.id.0,
        calendar: record.calendar.clone(),
        date: record.date.date(),
        name: record.name.clone(),
        fraction: record.fraction,
    }
    .into_active_model()
}

pub(crate) fn holiday(row: holiday::Model) -> Holiday {
    Holiday {
        id: HolidayId(row.id),
        calendar: row.calendar,
        date: day(row.date),
        name: row.name,
        fraction: row.fraction,
    }
}

pub(crate) fn absence_row(record: &Absence) -> absence::ActiveModel {
    absence::Model {
        id: record.id.0,
        reference: record.reference.clone(),
        person_id: record.person.0,
        start_day: record.start.date(),
        end_day: record.end.date(),
        kind: record.kind.clone(),
        minutes: record.minutes,
        at_minute: record.at,
    }
    .into_active_model()
}

pub(crate) fn absence(row: absence::Model) -> Absence {
    Absence {
        id: AbsenceId(row.id),
        reference: row.reference,
        person: PersonId(row.person_id),
        start: day(row.start_day),
        end: day(row.end_day),
        kind: row.kind,
        minutes: row.minutes,
        at: row.at_minute,
    }
}

pub(crate) fn team_row(record: &Team) -> team::ActiveModel {
    team::Model {
        id: record.id.0,
        code: record.code.clone(),
        name: record.name.clone(),
        parent_id: record.parent.map(|id| id.0),
        owner_id: record.owner.map(|id| id.0),
        week_capacity: record.week_capacity,
    }
    .into_active_model()
}

pub(crate) fn member_rows(record: &Team) -> Vec<team_member::ActiveModel> {
    let row = |(index, (person, share)): (usize, &(PersonId, i32))| {
        let row =
            team_member::Model { team_id: record.id.0, person_id: person.0, position: position(index), share: *share };
        row.into_active_model()
    };
    record.members.iter().enumerate().map(row).collect()
}

pub(crate) fn team(row: team::Model, members: &[team_member::Model]) -> Team {
    Team {
        id: TeamId(row.id),
        code: row.code,
        name: row.name,
        parent: row.parent_id.map(TeamId),
        owner: row.owner_id.map(PersonId),
        week_capacity: row.week_capacity,
        members: members.iter().map(|member| (PersonId(member.person_id), member.share)).collect(),
    }
}

pub(crate) fn field_row(record: &Field) -> field::ActiveModel {
    field::Model {
        id: record.id.0,
        subject: record.of.to_string(),
        name: record.name.clone(),
        kind: record.kind.to_string(),
        choices: Words(record.choices.clone()),
    }
    .into_active_model()
}

pub(crate) fn field(row: field::Model) -> Result<Field, Error> {
    Ok(Field {
        id: FieldId(row.id),
        name: row.name,
        of: row.subject.parse()?,
        kind: row.kind.parse()?,
        choices: row.choices.0,
    })
}

pub(crate) fn text_row(record: &Text) -> text_note::ActiveModel {
    text_note::Model {
        id: record.id.0,
        subject_kind: record.on.to_string(),
        subject: record.subject,
        slot: record.slot.to_string(),
        author: record.author.clone(),
        day: record.day.date(),
        body: record.body.clone(),
    }
    .into_active_model()
}

pub(crate) fn text(row: text_note::Model) -> Result<Text, Error> {
    Ok(Text {
        id: TextId(row.id),
        on: row.subject_kind.parse()?,
        subject: row.subject,
        slot: row.slot.parse()?,
        author: row.author,
        day: day(row.day),
        body: row.body,
    })
}

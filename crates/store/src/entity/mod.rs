//! One file a table.
#![allow(missing_docs)] // the fields are the columns, described by the migration

pub mod absence;
pub mod account;
pub mod api_token;
pub mod attachment;
pub mod baseline;
pub mod baseline_item;
pub mod booking;
pub mod budget_line;
pub mod calendar_key;
pub mod check;
pub mod door_key;
pub mod draft;
pub mod expense;
pub mod feed;
pub mod field;
pub mod founding_key;
pub mod holiday;
pub mod import_job;
pub mod item;
pub mod json;
pub mod kept_answer;
pub mod ledger;
pub mod ledger_change;
pub mod link;
pub mod list;
pub mod meeting;
pub mod milestone;
pub mod milestone_project;
pub mod person;
pub mod project;
pub mod recovery_code;
pub mod reference;
pub mod release;
pub mod risk;
pub mod saved_look;
pub mod security_entry;
pub mod sprint;
pub mod task;
pub mod task_assignee;
pub mod team;
pub mod team_member;
pub mod template;
pub mod template_task;
pub mod text_note;
pub mod time_entry;
pub mod timer;
pub mod trail;
pub mod upload;
pub mod upload_file;
pub mod week_sheet;
pub mod workspace;

// Every kind of record has its table here.
crate::stored::tables! {
    Field, Person, Holiday, Absence, Team, Project, BudgetLine, Milestone, Sprint, Release, List, Task, Link, Item, Baseline, BaselineItem,
    Booking, TimeEntry, WeekSheet, Expense, Trail, Check, Reference, Attachment, Meeting, Risk, Template, TemplateTask, Text,
}

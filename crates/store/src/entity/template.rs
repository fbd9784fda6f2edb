//! Templates.

use crate::{Error, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Template, TemplateId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "template")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub says: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Template {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        let (code, name, says) = (self.code.clone(), self.name.clone(), self.says.clone());
        Model { id: self.id.0, code, name, says }.into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self { id: TemplateId(row.id), code: row.code, name: row.name, says: row.says })
    }
}

//! What the API's description says of refusals that many addresses share.
#![allow(dead_code)] // the description is made of these types; the answers are made by `Error`

use super::Problem;
use utoipa::IntoResponses;

/// Of what stands behind the question mark.
#[derive(IntoResponses)]
pub enum OfAsking {
    #[response(status = UNAUTHORIZED, content_type = "application/problem+json", description = "No token, or one that is unknown")]
    Unknown(Problem),
    #[response(status = BAD_REQUEST, content_type = "application/problem+json", description = "What is asked cannot be read")]
    Unreadable(Problem),
    #[response(status = UNPROCESSABLE_ENTITY, content_type = "application/problem+json", description = "What is asked cannot be")]
    Impossible(Problem),
}

/// Of whoever changes something.
#[derive(IntoResponses)]
pub enum OfChanging {
    #[response(status = UNAUTHORIZED, content_type = "application/problem+json", description = "No token, or one that is unknown")]
    Unknown(Problem),
    #[response(status = FORBIDDEN, content_type = "application/problem+json", description = "The token or the account may not")]
    NotAllowed(Problem),
}

/// Of a body.
#[derive(IntoResponses)]
pub enum OfBody {
    #[response(status = CONFLICT, content_type = "application/problem+json", description = "The plan does not allow it as it stands")]
    NotNow(Problem),
    #[response(status = PAYLOAD_TOO_LARGE, content_type = "application/problem+json", description = "The body is too large")]
    TooLarge(Problem),
    #[response(status = UNSUPPORTED_MEDIA_TYPE, content_type = "application/problem+json", description = "The body is not JSON")]
    NotJson(Problem),
    #[response(status = UNPROCESSABLE_ENTITY, content_type = "application/problem+json", description = "A value cannot be")]
    Impossible(Problem),
}

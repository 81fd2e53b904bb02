package account

import (
	"gobbet/internal/studio/site"
)

// Signing in.

// SignInRequest is who wants to come in.
type SignInRequest struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

// Me is who is signed in.
type Me struct {
	Name  string          `json:"name"`
	Email string          `json:"email"`
	Sites []site.SiteInfo `json:"sites"`
}

package account

import (
	"errors"

	"gobbet/core/fault"
	"gobbet/internal/route"
	"gobbet/internal/store/accounts"
	"gobbet/internal/studio/site"
)

func (s *Place) signOut(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.sessions.Destroy(c)
}

func (s *Place) me(c *route.Call, _ route.None) (answer Me, err error) {
	account, err := s.store.Accounts.Get(c, c.Account)
	if errors.Is(err, fault.ErrNotFound) {
		err = route.SignedOut
	}
	if err != nil {
		return answer, err
	}
	return s.sayMe(c, account)
}

func (s *Place) sayMe(c *route.Call, account accounts.Account) (answer Me, err error) {
	sites, err := s.store.Sites.Of(c, account.ID)
	if err != nil {
		return answer, err
	}
	me := Me{Name: account.Name, Email: account.Email, Sites: []site.SiteInfo{}}
	for _, site := range sites {
		me.Sites = append(me.Sites, s.site.Info(site))
	}
	return me, nil
}

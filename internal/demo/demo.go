// Package demo is the made-up scenario that ships with Gobbet: Quillfern
// Pottery's shop, its pieces, and the people who came by.
package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/color"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/setup"
	"gobbet/internal/store"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/reaches"
	"gobbet/internal/store/sites"
	"gobbet/internal/uploads"
)

// What the demo is signed in to with, and the shop's key.
const (
	Email    = "mara@quillfern.test"
	Password = "ash and celadon"
	SiteKey  = "quillfern"
)

// Load puts the scenario into an empty store: an account, the shop at its
// origin, its pieces and their traffic up to now.
func Load(ctx context.Context, s *store.Store, shopOrigin string, now time.Time) error {
	account, err := s.Accounts.Add(ctx, Email, "Mara Quill", Password)
	if err != nil {
		return err
	}
	site, err := s.Sites.Add(ctx, SiteKey, "Quillfern Pottery", "Europe/Dublin", sites.Texts{shopOrigin}, account)
	if err != nil {
		return err
	}
	live, err := loadPieces(ctx, s, site)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		return err
	}
	return loadTraffic(ctx, s, site, zone, now, live)
}

// loadPieces gives what it put live, those that win first.
func loadPieces(ctx context.Context, s *store.Store, site int64) (live []choose.Live, err error) {
	settings := setup.Default()
	kit := shopKit
	if err := s.Sites.ChangeKit(ctx, site, 1, kit, nil); err != nil {
		return nil, err
	}
	settings.Goals, settings.Currency = goals, "EUR"
	settings.Limits = caps.SiteLimits{Overlays: 2, Quiet: "PT20S"}
	if err := s.Sites.ChangeSettings(ctx, site, 1, settings); err != nil {
		return nil, err
	}
	for id, name := range savedNames {
		rule, err := json.Marshal(saved[id])
		if err == nil {
			err = s.Reaches.Save(ctx, site, reaches.Reach{ID: id, Name: name, Rule: rule})
		}
		if err != nil {
			return nil, err
		}
	}
	ash, err := addPicture(ctx, s, site, "ash-bowl.png", bowl(900, 470, color.NRGBA{226, 220, 203, 255}, color.NRGBA{124, 150, 132, 255}, color.NRGBA{172, 128, 92, 255}))
	if err != nil {
		return nil, err
	}
	clay, err := addPicture(ctx, s, site, "terracotta-bowl.png", bowl(900, 420, color.NRGBA{240, 214, 190, 255}, color.NRGBA{188, 104, 66, 255}, color.NRGBA{120, 66, 44, 255}))
	if err != nil {
		return nil, err
	}
	if _, err := s.Codes.Add(ctx, site, wheelPool, "Glaze wheel", poolCodes()); err != nil {
		return nil, err
	}
	match, poll, cost := glazeMatch(), kilnOrClasses(), kilnCost()
	match.Page.Picture, poll.Page.Picture, cost.Page.Picture = ash.Hash, clay.Hash, clay.Hash
	for _, one := range []struct {
		id   string
		p    *piece.Piece
		live bool
	}{
		{"wheelevening", wheelEvening(clay.Hash, 100*clay.Height/clay.Width), false},
		{"beforeyougo", beforeYouGo(), true},
		{"glazeclub", glazeClub(ash.Hash, 100*ash.Height/ash.Width), true},
		{"classfinder", classFinder(), true},
		{"glazematch", match, true},
		{"kilnorclasses", poll, true},
		{"kilncost", cost, true},
		{"spinforaglaze", spinForAGlaze(), true},
		{"springcard", springCard(), true},
		{"findyourclass", findYourClass(), true},
		{"kilnletter", kilnLetter(), true},
		{"shippingline", shippingLine(), true},
		{"testtiles", testTiles(), true},
	} {
		raw, err := json.Marshal(one.p)
		if err != nil {
			return nil, err
		}
		p, err := piece.ParseWith(raw, saved)
		if err != nil {
			return nil, fmt.Errorf("the demo's %s: %w", one.id, err)
		}
		if err := s.Pieces.Add(ctx, site, one.id, raw); err != nil {
			return nil, err
		}
		if !one.live {
			continue
		}
		if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, one.id, 1, p.Drawings(&kit, nil)); err != nil {
			return nil, err
		}
		live = append(live, choose.Live{ID: one.id, Piece: p})
	}
	// Their tests have ended.
	if _, err := s.Pieces.Pause(ctx, pieces.Act{Site: site}, []string{"shippingline", followPiece}, nil, nil); err != nil {
		return nil, err
	}
	return live, nil
}

func addPicture(ctx context.Context, s *store.Store, site int64, name string, file []byte) (library.Picture, error) {
	p, err := uploads.ReadPicture(file)
	if err != nil {
		return p, err
	}
	p.Name = name
	return p, s.Library.AddPicture(ctx, site, p)
}

// MoveShop makes an origin the shop's, where the demo starts on another port than before.
func MoveShop(ctx context.Context, s *store.Store, origin string) error {
	all, err := s.Sites.ByID(ctx, nil)
	if err != nil {
		return err
	}
	for _, site := range all {
		if site.Key != SiteKey {
			continue
		}
		for _, known := range site.Origins {
			if known == origin {
				return nil
			}
		}
		return s.Sites.Change(ctx, site.ID, site.Version, site.Name, site.Zone, append(sites.Texts{origin}, site.Origins...))
	}
	return errors.New("the demo's shop is not in this database")
}

package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// Nameless is what somebody is called whose account was deleted.
func Nameless(user int64) string { return fmt.Sprintf("former student %d", user) }

// Forget deletes a person: the name, the login, the address and what was the person's alone go, and what was handed in
// stays with its marks under no name. It cannot be undone.
func (s *Store) Forget(ctx context.Context, user, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var u User
		if err := tx.GetContext(ctx, &u, `SELECT * FROM users WHERE id = ? FOR UPDATE`, user); err != nil {
			return found(err)
		}
		for _, x := range []struct {
			query string
			args  []any
		}{
			{`DELETE FROM models WHERE owner_id = ?`, []any{user}},
			{`DELETE FROM assemblies WHERE owner_id = ?`, []any{user}},
			{`DELETE FROM devices WHERE user_id = ?`, []any{user}},
			{`DELETE FROM looks WHERE user_id = ?`, []any{user}},
			{`DELETE FROM class_groups WHERE student_id = ?`, []any{user}},
			{`DELETE FROM own_remarks WHERE user_id = ?`, []any{user}},
			{`DELETE FROM login_failures WHERE login = ?`, []any{u.Login}},
			// Names of files and comments may have the person's in them.
			{`UPDATE attempts SET file_name = CONCAT('attempt-', number, IF(LOCATE('.', file_name) > 0,
		CONCAT('.', SUBSTRING_INDEX(file_name, '.', -1)), '')) WHERE student_id = ?`, []any{user}},
			{`UPDATE returns t JOIN attempts a ON a.id = t.attempt_id SET t.comment = REPLACE(REPLACE(t.comment, ?, '…'), ?,
		'…') WHERE a.student_id = ?`, []any{u.Name, firstName(u.Name), user}},
			{`UPDATE audit SET detail = REPLACE(detail, ?, '(…)') WHERE detail LIKE CONCAT('%account ', ?, ' %')`,
				[]any{"(" + u.Login + ")", user}},
			{`UPDATE memberships SET until_at = COALESCE(until_at, ?) WHERE user_id = ?`, []any{now(), user}},
			{`UPDATE users SET name = ?, login = ?, mail = '', sourced_id = NULL, password = '', ended_at =
				COALESCE(ended_at, ?),
		sessions = sessions + 1 WHERE id = ?`, []any{Nameless(user), fmt.Sprintf("former-%d", user), now(), user}},
		} {
			if _, err := tx.ExecContext(ctx, x.query, x.args...); err != nil {
				return fmt.Errorf("forget the person %d: %w", user, err)
			}
		}
		return audit(ctx, tx, by, "account", nil, fmt.Sprintf("the account %d was deleted; its marks are nameless", user))
	})
}

// firstName is the first word of a name, where it is long enough to be told from other words.
func firstName(name string) string {
	for i, r := range name {
		if r == ' ' && i > 2 {
			return name[:i]
		}
	}
	return name
}

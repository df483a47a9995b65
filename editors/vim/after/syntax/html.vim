runtime syntax/hausblatt_tags.vim

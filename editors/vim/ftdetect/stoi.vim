autocmd BufRead,BufNewFile *.stoi setfiletype stoi

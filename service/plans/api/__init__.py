"""Plans over the API: what goes over it, and who may ask for it. The rules stand beside this folder
and know nothing of it.
"""
